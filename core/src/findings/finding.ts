import { z } from 'zod';
import { filled, type Data, type Entries, type Entry, type Needs, type Saying } from './define';
import { general } from './general';
import { stationIds, type PartOf, type StationId } from './stations';

/** Where something stands: enough for a button to go there. */
export const placeSchema = z.strictObject({
  station: z.enum(stationIds).describe('the page'),
  joint: z.string().optional().describe('id of the joint'),
  drive: z.string().optional().describe('id of the drive'),
  part: z.string().optional().describe('part of the station, where it is not the first'),
  routine: z.string().optional().describe('id of the routine'),
  step: z.string().optional().describe('id of the step'),
  pose: z.string().optional().describe('id of the pose'),
  timeS: z.number().optional().describe('moment of the routine, s'),
  item: z.string().optional().describe('id of the signal, sensor or board that it is about'),
  role: z.enum(['direction', 'enable', 'firstTrack', 'secondTrack']).optional().describe('which of a motor’s wires'),
});
/** A part is one of its station's. */
export type Place = {
  [S in StationId]: Omit<z.infer<typeof placeSchema>, 'station' | 'part'> & {
    readonly station: S;
    readonly part?: PartOf<S> | undefined;
  };
}[StationId];

export const findingSchema = z.strictObject({
  code: z.string().describe('see docs/messages.md'),
  severity: z.enum(['stop', 'look', 'note']).describe('stop: cannot be run; look: wants a look; note: worth knowing'),
  message: z.string().describe('one sentence'),
  data: z.record(z.string(), z.union([z.string(), z.number()])).describe('the figures of the sentence'),
  place: (placeSchema as z.ZodType<Place>).describe('where to mend it'),
});
export type Finding = z.infer<typeof findingSchema>;

const rank = { stop: 0, look: 1, note: 2 } as const;
/** What must be mended first, what is only to know last. */
export const bySeverity = (a: Finding, b: Finding): number => rank[a.severity] - rank[b.severity];

/** What is wrong with one place of a document or body; `path` as in mechanism.joints[2].limits.min. */
export const faultSchema = z.strictObject({
  code: z.string().describe('see docs/messages.md'),
  path: z.string().describe('of the value: mechanism.joints[2].limits.min'),
  expected: z.string().describe('what is allowed there'),
  got: z.string().describe('what was there'),
  message: z.string().describe('one sentence'),
});
export type Fault = z.infer<typeof faultSchema>;

/** What a subject says: its codes, and what makes sentences, findings and faults of them, each with the figures that it asks for. */
export function defineFindings<const E extends Entries>(entries: E) {
  type All = typeof general & E;
  type Own = keyof All & string;
  const all: Readonly<Record<string, Entry>> = { ...general, ...entries };
  const sentence = (code: string, data: Data): string => filled(all[code].text, data);
  const found = (code: string, data: Data, place: Place): Finding => ({
    ...{ code, severity: all[code].severity, message: sentence(code, data), data: { ...data }, place },
  });
  const wrong = (code: string, data: Data, path: string, expected: string, got: string): Fault => ({
    ...{ code, path, expected, got, message: sentence(code, { path, ...data }) },
  });
  return {
    entries,
    /** The sentence of a code. */
    say: <C extends Own>(code: C, ...[data = {}]: Needs<All[C]>): string => sentence(code, data),
    finding: <C extends Own>(code: C, place: Place, ...[data = {}]: Needs<All[C]>): Finding =>
      found(code, data, place),
    /** A finding of what was said elsewhere, in the same figures. */
    findingOf: ({ code, data }: Saying<All>, place: Place): Finding => found(code, data, place),
    fault: <C extends Own>(
      ...[code, path, expected, got, data = {}]: [C, string, string, string, ...Needs<All[C], 'path'>]
    ): Fault => wrong(code, data, path, expected, got),
    /** A fault of what was said elsewhere. */
    faultOf: ({ code, data }: Saying<All, 'path'>, path: string, expected: string, got: string): Fault =>
      wrong(code, data, path, expected, got),
  };
}
const { fault } = defineFindings({});

export const errorBodySchema = z.strictObject({
  code: z.string().describe('see docs/messages.md'),
  message: z.string().describe('one sentence'),
  remedy: z.string().optional().describe('what helps'),
  faults: z.array(faultSchema).describe('place by place, where it was the body'),
});
export type ErrorBody = z.infer<typeof errorBodySchema>;

/** mechanism.joints[2].limits.min from ['mechanism', 'joints', 2, 'limits', 'min']. */
export function pathText(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (text, key) => (typeof key === 'number' ? `${text}[${key}]` : text ? `${text}.${String(key)}` : String(key)),
    '',
  );
}

/** A value from outside in a few words. */
export function describe(value: unknown): string {
  if (value === undefined) return 'nothing';
  if (typeof value === 'string') return `“${value.slice(0, 40)}”`;
  if (Array.isArray(value)) return `a list of ${value.length}`;
  return typeof value === 'object' && value !== null ? 'an object' : String(value);
}

function at(value: unknown, path: readonly PropertyKey[]): unknown {
  return path.reduce<unknown>((v, key) => (v === null || v === undefined ? undefined : (v as never)[key]), value);
}

/** Zod's issues as faults, one plain sentence each. `input` is what was parsed; `root` stands for an empty path. */
export function faultsOf(error: z.ZodError, input: unknown, root = 'the body'): Fault[] {
  return error.issues
    .flatMap((issue) => flatten(issue))
    .slice(0, 50)
    .map((issue) => {
      const path = pathText(issue.path) || root;
      if (issue.code === 'unrecognized_keys') {
        const key = issue.keys[0];
        const where = pathText([...issue.path, key]);
        return fault('shape', where, 'a known key', 'an unknown key', {
          path: where,
          problem: 'is not a key that is known here',
        });
      }
      const got = describe(at(input, issue.path));
      const expected = expectation(issue);
      return fault('shape', path, expected, got, {
        problem: got === 'nothing' ? `is missing; it must be ${expected}` : `must be ${expected}; got ${got}`,
      });
    });
}

type Issue = z.core.$ZodIssue;

/** Of a union that failed everywhere, the branch that got furthest says it best. */
function flatten(issue: Issue): Issue[] {
  if (issue.code !== 'invalid_union' || issue.errors.length === 0) return [issue];
  const depth = (issues: Issue[]): number => Math.max(0, ...issues.map((i) => i.path.length));
  const best = issue.errors.reduce((a, b) => (depth(b) > depth(a) ? b : a));
  if (depth(best) === 0) return [issue];
  return best.flatMap((inner) => flatten({ ...inner, path: [...issue.path, ...inner.path] } as Issue));
}

function expectation(issue: Issue): string {
  switch (issue.code) {
    case 'invalid_type': {
      const names: Record<string, string> = {
        array: 'a list',
        tuple: 'a list',
        record: 'an object',
        object: 'an object',
        string: 'text',
        number: 'a number',
        boolean: 'true or false',
        int: 'a whole number',
      };
      return names[issue.expected] ?? issue.expected;
    }
    case 'too_small':
      if (issue.origin === 'string') return 'text that is not empty';
      if (issue.origin === 'array') return `a list of at least ${issue.minimum}`;
      return issue.inclusive ? `at least ${issue.minimum}` : `more than ${issue.minimum}`;
    case 'too_big':
      if (issue.origin === 'string') return `text of at most ${issue.maximum} characters`;
      if (issue.origin === 'array') return `a list of at most ${issue.maximum}`;
      return issue.inclusive ? `at most ${issue.maximum}` : `less than ${issue.maximum}`;
    case 'invalid_value':
      return issue.values.length === 1
        ? `“${String(issue.values[0])}”`
        : `one of ${issue.values.map(String).join(', ')}`;
    case 'invalid_union': {
      const options = 'options' in issue && Array.isArray(issue.options) ? issue.options.map(String).join(', ') : '';
      if (options) return `one of ${options}`;
      const values = issue.errors.flatMap(([first]) => (first?.code === 'invalid_value' ? first.values : []));
      return values.length ? `one of ${values.map(String).join(', ')}` : issue.message.toLowerCase();
    }
    default:
      return issue.message.charAt(0).toLowerCase() + issue.message.slice(1);
  }
}
