/** The page's worker. */
import { expose } from 'comlink';
import { compute } from './compute';

expose(compute);
