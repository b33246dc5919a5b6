import fc from 'fast-check';
import { strictSentences } from '@cork-elbow/core/findings';

strictSentences();
fc.configureGlobal({ seed: 20261 });
