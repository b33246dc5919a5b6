/** Everything the worker can be asked. */
import type { JobKind } from '../define-job';
import { along } from './along';
import { contact } from './contact';
import { exactness } from './exactness';
import { fixes } from './fixes';
import { inverse } from './inverse';
import { lengths } from './lengths';
import { map } from './map';
import { plan } from './plan';
import { points } from './points';
import { schools } from './schools';
import { spots } from './spots';
import { figures } from './figures';
import { sweep } from './sweep';
import { lightest, trial, worst } from './worst';

export const jobKinds = {
  along,
  contact,
  exactness,
  figures,
  fixes,
  inverse,
  lengths,
  lightest,
  map,
  plan,
  points,
  schools,
  spots,
  sweep,
  trial,
  worst,
};

export type JobName = keyof typeof jobKinds;
export type RequestOf<K extends JobName> = (typeof jobKinds)[K] extends JobKind<infer R, unknown> ? R : never;
export type AnswerOf<K extends JobName> = (typeof jobKinds)[K] extends JobKind<never, infer A> ? A : never;
