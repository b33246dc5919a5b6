/** Steps in a few words. */
import { formatNumber } from '../units/quantity';
import type { Condition, Keep, Rig, Step, Target } from '../rig';

export const stepNames: Record<Step['kind'], string> = {
  'joint-move': 'Joint move',
  'straight-move': 'Straight move',
  arc: 'Arc',
  circle: 'Full circle',
  path: 'Path',
  approach: 'Approach',
  retreat: 'Retreat',
  grip: 'Grip',
  spin: 'Spin',
  pattern: 'Pattern',
  wait: 'Wait',
  'wait-input': 'Wait for input',
  output: 'Set output',
  hold: 'Hold joint',
  'let-go': 'Let joint go',
  'pick-up': 'Pick up',
  'put-down': 'Put down',
  'swap-tool': 'Swap tool',
  speed: 'Speed of all',
  marker: 'Marker',
  jump: 'Jump to marker',
  repeat: 'Repeat',
  if: 'If',
  else: 'Otherwise',
  counter: 'Counter',
  call: 'Call',
  return: 'Return',
  alongside: 'Alongside',
  group: 'Group',
  end: 'End',
  note: 'Note',
};

/** Step kinds as they are offered. */
export const stepGroups: readonly (readonly [name: string, kinds: readonly Step['kind'][]])[] = [
  ['Moves', ['joint-move', 'straight-move', 'arc', 'circle', 'path', 'approach', 'retreat', 'pattern', 'spin']],
  ['Tool', ['grip', 'pick-up', 'put-down', 'swap-tool']],
  ['Waits and signals', ['wait', 'wait-input', 'output']],
  ['Order', ['repeat', 'if', 'else', 'call', 'return', 'alongside', 'group', 'end', 'marker', 'jump', 'counter']],
  ['Other', ['speed', 'hold', 'let-go', 'note']],
];

const mm = (xyz: readonly number[]): string => `${xyz.map((v) => formatNumber(v, 1)).join(' / ')} mm`;
const named = (list: readonly { id: string; name?: string }[], id: string, gone: string): string =>
  list.find((item) => item.id === id)?.name ?? gone;

export function describeTarget(rig: Rig, target: Target): string {
  if ('pose' in target) return named(rig.poses, target.pose, 'a pose that is gone');
  if ('spot' in target) return named(rig.spots, target.spot, 'a spot that is gone');
  const count = (joints: object): string => {
    const n = Object.keys(joints).length;
    return n === 1 ? '1 joint' : `${n} joints`;
  };
  if ('joints' in target) return `${count(target.joints)} by set angles`;
  if ('joints' in target.shift) return `${count(target.shift.joints)} from here`;
  return `${mm(target.shift.xyzMm)} from here${target.shift.along === 'tool' ? ' along the tool' : ''}`;
}

const signalName = (rig: Rig, id: string): string => named(rig.signals, id, 'a signal that is gone');
const onOff = (is: boolean): string => (is ? 'on' : 'off');
export const describeCondition = (rig: Rig, when: Condition): string =>
  'signal' in when
    ? `${signalName(rig, when.signal)} is ${onOff(when.is)}`
    : `${when.counter} is ${when.is === 'equal' ? '' : `${when.is} `}${when.value}`;

/** What a tool keeps of its orientation on a way, in words. */
export const keepNames: Readonly<Record<Keep, string>> = {
  turn: 'its whole turn kept',
  direction: 'direction kept',
  tilt: 'tilt kept',
  nothing: 'follows the arm',
};

/** What a step does, in a few words; its kind is said by {@link stepNames}. */
export function describeStep(rig: Rig, step: Step): string {
  const tool = (id: string): string => named(rig.mechanism.tools, id, 'no tool');
  const joints = (ids: readonly string[]): string => ids.map((id) => named(rig.mechanism.joints, id, id)).join(', ');
  switch (step.kind) {
    case 'joint-move':
    case 'straight-move':
      return describeTarget(rig, step.target);
    case 'arc':
      return `through ${describeTarget(rig, step.via)} to ${describeTarget(rig, step.target)}`;
    case 'circle':
      return `through ${describeTarget(rig, step.via)} and ${describeTarget(rig, step.second)}${step.turns > 1 ? `, ${step.turns} times` : ''}`;
    case 'path':
      return step.through.map((target) => describeTarget(rig, target)).join(' → ');
    case 'approach':
      return `${describeTarget(rig, step.target)}, the last ${formatNumber(step.distanceMm, 1)} mm straight`;
    case 'retreat':
      return `${formatNumber(step.distanceMm, 1)} mm back`;
    case 'pattern': {
      const { places } = step;
      const what =
        places.kind === 'grid'
          ? `grid of ${places.columns} × ${places.rows} from ${named(rig.spots, places.spot, 'a spot that is gone')}`
          : places.kind === 'ring'
            ? `ring of ${places.count} about ${named(rig.spots, places.spot, 'a spot that is gone')}`
            : `list of ${places.pointsMm.length}`;
      return step.routine === null
        ? what
        : `${what}, ${named(rig.routines, step.routine, 'a routine that is gone')} at each`;
    }
    case 'spin': {
      const until =
        step.until === 'stopped'
          ? 'until stopped'
          : 'forS' in step.until
            ? `for ${step.until.forS} s`
            : `until ${signalName(rig, step.until.signal)} is ${onOff(step.until.is)}`;
      return `${joints([step.joint])} at ${formatNumber(step.speed, 1)} °/s ${until}`;
    }
    case 'wait':
      return `${step.durationS} s`;
    case 'wait-input': {
      const otherwise =
        step.otherwise === 'stop' ? 'stop' : step.otherwise === 'go-on' ? 'go on' : `jump to ${step.otherwise.jump}`;
      return `${signalName(rig, step.signal)} is ${onOff(step.is)}${step.timeoutS === null ? '' : `; after ${step.timeoutS} s ${otherwise}`}`;
    }
    case 'output':
      return `${signalName(rig, step.signal)} ${onOff(step.on)}`;
    case 'grip': {
      const payload = step.payload ? named(rig.payloads, step.payload, 'a payload that is gone') : null;
      const to =
        typeof step.to === 'object'
          ? 'aroundMm' in step.to
            ? `around ${step.to.aroundMm} mm`
            : `to ${step.to.openingMm} mm`
          : typeof step.to === 'number'
            ? `to ${step.to}`
            : step.to;
      const force = step.stopAtN === undefined ? '' : `, stop at ${step.stopAtN} N`;
      return `${tool(step.tool)} ${to}${force}${payload ? `, holding ${payload}` : step.payload === null ? ', letting go' : ''}`;
    }
    case 'hold':
    case 'let-go':
      return joints(step.joints);
    case 'pick-up':
      return `${named(rig.payloads, step.payload, 'a payload that is gone')} with ${tool(step.tool)}`;
    case 'put-down':
      return `what ${tool(step.tool)} holds`;
    case 'swap-tool':
      return `${step.off === null ? 'nothing' : tool(step.off)} off, ${step.on === null ? 'nothing' : tool(step.on)} on`;
    case 'speed':
      return `${formatNumber(step.share * 100, 0)} % from here on`;
    case 'marker':
    case 'group':
      return step.name;
    case 'jump':
      return step.to;
    case 'repeat':
      return step.times === null ? 'for ever' : `${step.times} times`;
    case 'if':
      return describeCondition(rig, step.when);
    case 'counter':
      return 'set' in step.change
        ? `${step.counter} = ${step.change.set}`
        : `${step.counter} ${step.change.add < 0 ? '−' : '+'} ${Math.abs(step.change.add)}`;
    case 'call':
      return named(rig.routines, step.routine, 'a routine that is gone');
    case 'alongside':
      return `${named(rig.routines, step.routine, 'a routine that is gone')} meanwhile`;
    case 'note':
      return step.note;
    case 'else':
    case 'return':
    case 'end':
      return '';
  }
}
