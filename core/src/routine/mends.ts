/** What mends a finding: one button each. A fix edits the document; what only a person can choose is gone to instead. */
import type { Finding } from '../findings';
import type { RoutineEntries } from './findings';
import { wiringMends } from '../wiring';
import { freeId, type Fix, type Rig, type Routine, type Step } from '../rig';

/** A document as it may be edited: the routine and step that the finding names. */
interface Spot {
  readonly rig: Rig;
  readonly routine: Routine;
  /** −1 where the finding names none. */
  readonly index: number;
  readonly step: Step | undefined;
  readonly finding: Finding;
}
/** `can`: whether it is the step's to change; left out: always. */
type Mend = readonly [label: string, mend: (at: Spot) => void, can?: (at: Spot) => boolean];

const number = (value: string | number | undefined): number => (typeof value === 'number' ? value : 0);
const insert = ({ routine }: Spot, index: number, step: Record<string, unknown>): void => {
  const id = freeId(
    'step',
    routine.steps.map((s) => s.id),
  );
  routine.steps.splice(index, 0, { id, enabled: true, note: '', ...step } as Step);
};

const skip: Mend = ['Skip the step', ({ step }) => step && (step.enabled = false)];
const remove: Mend = ['Delete the step', ({ routine, index }) => index >= 0 && routine.steps.splice(index, 1)];
const smooth: Mend = [
  'Take the S-curve',
  ({ routine, step }) => {
    if (step && 'profile' in step && step.profile !== undefined) delete step.profile;
    else routine.profile = 's-curve';
    if (step && 'pace' in step && routine.profile !== 's-curve') step.profile = 's-curve';
  },
];
const byJoints: Mend = [
  'Make it a joint move',
  ({ routine, index, step }) => {
    if (step && 'target' in step)
      routine.steps[index] = {
        id: step.id,
        enabled: step.enabled,
        note: step.note,
        kind: 'joint-move',
        target: step.target,
        pace: step.pace,
        ...(step.tool ? { tool: step.tool } : {}),
      };
  },
];

/** Values of joints (° or mm) that a step says itself: of its pose, of its own, or by how much they move. */
function valuesOf({
  rig,
  step,
}: Pick<Spot, 'rig' | 'step'>): { of: Record<string, number>; isShift: boolean } | null {
  if (!step || !('target' in step)) return null;
  const { target } = step;
  if ('pose' in target) {
    const pose = rig.poses.find((p) => p.id === target.pose);
    return pose ? { of: pose.joints, isShift: false } : null;
  }
  if ('joints' in target) return { of: target.joints, isShift: false };
  return 'shift' in target && 'joints' in target.shift ? { of: target.shift.joints, isShift: true } : null;
}
/** Brings the joint the finding names to the limit it is past. */
const intoLimit: Mend = [
  'Bring it to the limit',
  ({ rig, step, finding }) => {
    const values = valuesOf({ rig, step });
    const { joint } = finding.place;
    if (!values || !joint) return;
    const { by, value, side } = finding.data;
    const from = values.isShift ? values.of[joint] : number(value);
    // Rounded inwards: what is saved has three decimals.
    values.of[joint] =
      side === 'max' ? Math.floor((from - number(by)) * 1000) / 1000 : Math.ceil((from + number(by)) * 1000) / 1000;
  },
  ({ rig, step, finding: { place } }) => {
    const values = valuesOf({ rig, step });
    return values !== null && place.joint !== undefined && (!values.isShift || place.joint in values.of);
  },
];

const slower: Mend = [
  'Slow the step down',
  ({ step, finding }) => {
    if (!step || !('pace' in step)) return;
    const share = number(finding.data.limit) / number(finding.data.value);
    const { pace } = step;
    if ('speedShare' in pace) pace.speedShare = Math.max(0.01, Math.floor(pace.speedShare * share * 100) / 100);
    else if ('durationS' in pace) pace.durationS = Math.ceil((pace.durationS / share) * 100) / 100;
    else pace.mmPerS = Math.max(0.1, Math.floor(pace.mmPerS * share * 10) / 10);
  },
];
/** The only signal of its way, where there is no choice to make. */
const onlySignal = (way: 'in' | 'out'): Mend => [
  way === 'in' ? 'Choose the first input' : 'Choose the first output',
  ({ rig, step }) => {
    const first = rig.signals.find((s) => s.way === way);
    if (!first || !step) return;
    if (step.kind === 'if' && 'signal' in step.when) step.when.signal = first.id;
    else if ('signal' in step) step.signal = first.id;
  },
];

const mends: Partial<Record<keyof RoutineEntries, Mend>> = {
  'pose-unknown': skip,
  'spot-unknown': skip,
  'target-unreachable': skip,
  'routine-unknown': skip,
  'routine-recurs': [
    'Skip its calls',
    ({ routine }) => {
      for (const step of routine.steps)
        if (step.kind === 'call' || step.kind === 'alongside' || (step.kind === 'pattern' && step.routine))
          step.enabled = false;
    },
  ],
  'calls-too-deep': skip,
  'jump-out-of-alongside': skip,
  'joint-in-two': skip,
  'pattern-empty': skip,
  'grip-no-tool': skip,
  'grip-no-openings': ['Close it all the way', ({ step }) => step?.kind === 'grip' && (step.to = 'closed')],
  'grip-on-off': ['Close it', ({ step }) => step?.kind === 'grip' && (step.to = 'closed')],
  'spin-has-ends': skip,
  'spin-too-fast': [
    'Give it its limit',
    ({ step, finding }) =>
      step?.kind === 'spin' &&
      (step.speed = (Math.sign(step.speed) * Math.floor(number(finding.data.limit) * 1000)) / 1000),
  ],
  'target-over-limit': intoLimit,
  'target-over-confirmed': intoLimit,
  'duration-too-short': [
    'Give it the least time',
    ({ step, finding }) => {
      if (step && 'pace' in step) step.pace = { durationS: Math.ceil(number(finding.data.least) * 100) / 100 };
    },
  ],
  'path-nowhere': skip,
  'path-no-tool': skip,
  'path-unreachable': byJoints,
  'path-jumps': byJoints,
  'path-other-posture': byJoints,
  'path-not-straight': byJoints,
  'arc-flat': [
    'Go straight',
    ({ routine, index, step }) => {
      if (step?.kind !== 'arc') return;
      const { via: _via, ...rest } = step;
      routine.steps[index] = { ...rest, kind: 'straight-move' };
    },
  ],
  'profile-jump': smooth,
  'profile-sharp': smooth,
  'blend-dropped': ['Stop at the corner', ({ step }) => step && 'blendMm' in step && delete step.blendMm],
  'drive-too-slow': slower,
  'drive-stutters': [
    'Double its speed',
    ({ step }) => {
      if (!step || !('pace' in step)) return;
      const { pace } = step;
      if ('speedShare' in pace) pace.speedShare = Math.min(1, pace.speedShare * 2);
      else if ('durationS' in pace) pace.durationS /= 2;
      else pace.mmPerS *= 2;
    },
  ],
  'end-missing': ['Add an end', (at) => insert(at, at.routine.steps.length, { kind: 'end' })],
  'end-alone': remove,
  'else-alone': remove,
  'return-alone': remove,
  'marker-unused': remove,
  'marker-twice': remove,
  'marker-missing': [
    'Add the marker at the end',
    (at) => insert(at, at.routine.steps.length, { kind: 'marker', name: String(at.finding.data.name) }),
  ],
  'wait-without-end': [
    'Stop after 30 s',
    ({ step }) => {
      if (step?.kind === 'wait-input') Object.assign(step, { timeoutS: 30, otherwise: 'stop' });
    },
  ],
  'loop-without-wait': ['Wait 1 s before it', (at) => insert(at, at.index, { kind: 'wait', durationS: 1 })],
  'input-unknown': onlySignal('in'),
  'output-unknown': onlySignal('out'),
  'joint-let-go': [
    'Hold the joint before',
    (at) => at.finding.place.joint && insert(at, at.index, { kind: 'hold', joints: [at.finding.place.joint] }),
  ],
  'joint-spins': [
    'Stop the spin before',
    (at) =>
      at.finding.place.joint &&
      insert(at, at.index, { kind: 'spin', joint: at.finding.place.joint, speed: 0, until: 'stopped' }),
  ],
  'park-holding': [
    'Put it down first',
    (at) => {
      const tool = at.rig.mechanism.tools.find((t) => t.grip)?.id;
      if (tool) insert(at, 0, { kind: 'put-down', tool });
    },
  ],
  'wait-longer': [
    'Wait only as long',
    ({ step, finding }) => {
      if (step?.kind === 'wait') step.durationS = Math.ceil(number(finding.data.needed) * 100) / 100;
    },
  ],
  'settle-missing': [
    'Wait until it is still',
    (at) =>
      insert(at, at.index + 1, {
        kind: 'wait',
        durationS: Math.ceil(number(at.finding.data.needed) * 100) / 100,
      }),
  ],
  'low-pass-unsettled': [
    'Wait until it has settled',
    (at) => {
      const missing = number(at.finding.data.settles) - number(at.finding.data.takes);
      insert(at, at.index + 1, { kind: 'wait', durationS: Math.ceil(missing * 100) / 100 });
    },
  ],
  'low-pass-first-tick': [
    'Take a longer time constant',
    ({ rig, finding }) => {
      const factor = number(finding.data.value) / number(finding.data.limit);
      rig.motion.timeConstantS = Math.min(10, Math.ceil(rig.motion.timeConstantS * factor * 1.02 * 1000) / 1000);
    },
  ],
};

/** What mends a finding; null where a person must look, or where what it names is gone. */
export function fixOf(rig: Rig, finding: Finding): Fix | null {
  const ofRig = wiringMends[finding.code];
  if (ofRig) return ofRig(rig, finding);
  const mend = (mends as Readonly<Record<string, Mend | undefined>>)[finding.code];
  const { routine: id, step: stepId } = finding.place;
  const routine = rig.routines.find((r) => r.id === id);
  if (!mend || !routine) return null;
  const index = routine.steps.findIndex((s) => s.id === stepId);
  if (stepId !== undefined && index < 0) return null;
  const [label, change, can] = mend;
  if (can && !can({ rig, routine, index, step: routine.steps[index], finding })) return null;
  if ((finding.code === 'input-unknown' || finding.code === 'output-unknown') && !canChoose(rig, finding.code))
    return null;
  return {
    label,
    apply(draft) {
      const own = draft.routines.find((r) => r.id === id);
      if (own) change({ rig: draft, routine: own, index, step: own.steps[index], finding });
    },
  };
}
const canChoose = (rig: Rig, code: 'input-unknown' | 'output-unknown'): boolean =>
  rig.signals.some((s) => s.way === (code === 'input-unknown' ? 'in' : 'out'));
