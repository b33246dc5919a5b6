/** A routine as plain sentences, one a step; {@link parseRoutine} reads them back to the same steps. */
import { codeName, type Pace, type Rig, type Routine, type Step, type Target } from '../../rig';
import { structureOf } from '../structure';

export const profileWords = {
  's-curve': 'S-curve',
  'minimum-jerk': 'minimum jerk',
  'soft-stop': 'soft stop',
  trapezoid: 'trapezoid',
  linear: 'even speed',
  jump: 'jump',
} as const;

/** What a tool keeps of its orientation on a way. */
export const keepWords = {
  turn: 'keeping its turn',
  direction: 'keeping its direction',
  tilt: 'keeping its tilt',
  nothing: 'following the arm',
} as const;

export const quote = (text: string): string => JSON.stringify(text);

/** By its name where that is the only one, else by its id. */
function named(list: readonly { id: string; name?: string }[], id: string): string {
  const found = list.find((item) => item.id === id);
  const name = found?.name;
  return name !== undefined && list.filter((item) => item.name === name).length === 1 ? quote(name) : `#${id}`;
}
const xyz = (v: readonly number[]): string => v.join(' ');

class Writer {
  constructor(private readonly rig: Rig) {}

  private joint(id: string): string {
    const joint = this.rig.mechanism.joints.find((j) => j.id === id);
    return joint ? codeName(joint) : `#${id}`;
  }
  private joints(values: Readonly<Record<string, number>>): string {
    return Object.entries(values)
      .map(([id, v]) => `${this.joint(id)} ${v}`)
      .join(' ');
  }
  private signal(id: string, way: 'in' | 'out'): string {
    return named(
      this.rig.signals.filter((s) => s.way === way),
      id,
    );
  }
  private readonly tool = (id: string): string => `tool ${named(this.rig.mechanism.tools, id)}`;
  private readonly payload = (id: string): string => `payload ${named(this.rig.payloads, id)}`;
  private readonly routine = (id: string): string => named(this.rig.routines, id);

  target(target: Target): string {
    if ('pose' in target) return `pose ${named(this.rig.poses, target.pose)}`;
    if ('spot' in target) {
      const { direction } = target;
      const pointing =
        direction === undefined ? '' : direction === null ? ' pointing freely' : ` pointing ${xyz(direction)}`;
      return `spot ${named(this.rig.spots, target.spot)}${pointing}`;
    }
    if ('joints' in target) return `joints ${this.joints(target.joints)}`.trimEnd();
    if ('joints' in target.shift) return `joints from here ${this.joints(target.shift.joints)}`.trimEnd();
    return `${xyz(target.shift.xyzMm)} mm from here${target.shift.along === 'tool' ? ' along the tool' : ''}`;
  }

  private pace(pace: Pace): string {
    if ('durationS' in pace) return `in ${pace.durationS} s`;
    if ('mmPerS' in pace) return `at ${pace.mmPerS} mm/s`;
    const accel = pace.accelShare === undefined ? '' : ` with ${percent(pace.accelShare)} acceleration`;
    return `at ${percent(pace.speedShare)}${accel}`;
  }

  private head(step: Step): string[] {
    switch (step.kind) {
      case 'joint-move':
        return [`Joint move to ${this.target(step.target)}`, ...(step.arrive ? ['each at its own pace'] : [])];
      case 'straight-move':
        return [`Straight move to ${this.target(step.target)}`];
      case 'arc':
        return [`Arc through ${this.target(step.via)} to ${this.target(step.target)}`];
      case 'circle':
        return [
          `Full circle through ${this.target(step.via)} and ${this.target(step.second)}`,
          ...(step.turns > 1 ? [`${step.turns} times`] : []),
        ];
      case 'path':
        return [`Path to ${step.through.map((t) => this.target(t)).join(' then ')}`];
      case 'approach':
        return [
          `Approach ${this.target(step.target)}`,
          `last ${step.distanceMm} mm straight`,
          ...(step.lastMmPerS === undefined ? [] : [`slowly at ${step.lastMmPerS} mm/s`]),
        ];
      case 'retreat':
        return [`Retreat ${step.distanceMm} mm`];
      case 'grip': {
        const to =
          typeof step.to === 'string'
            ? step.to
            : typeof step.to === 'number'
              ? `value ${step.to}`
              : 'aroundMm' in step.to
                ? `around ${step.to.aroundMm} mm`
                : `opening ${step.to.openingMm} mm`;
        return [
          `Grip with ${this.tool(step.tool)} to ${to}`,
          ...(step.stopAtN === undefined ? [] : [`stop at ${step.stopAtN} N`]),
          ...(step.payload === undefined
            ? []
            : [step.payload === null ? 'letting go' : `holding ${this.payload(step.payload)}`]),
        ];
      }
      case 'spin': {
        const { until } = step;
        const how =
          until === 'stopped'
            ? 'until stopped'
            : 'forS' in until
              ? `for ${until.forS} s`
              : `until input ${this.signal(until.signal, 'in')} ${onOff(until.is)} within ${until.atMostS} s`;
        return [`Spin joint ${this.joint(step.joint)} at ${step.speed} ${how}`];
      }
      case 'pattern': {
        const { places } = step;
        const where =
          places.kind === 'grid'
            ? `grid from spot ${named(this.rig.spots, places.spot)} of ${places.columns} by ${places.rows} columns ${xyz(places.columnMm)} mm rows ${xyz(places.rowMm)} mm`
            : places.kind === 'ring'
              ? `ring about spot ${named(this.rig.spots, places.spot)} of ${places.count} radius ${places.radiusMm} mm from ${places.firstDeg} deg`
              : `list ${places.pointsMm.map(xyz).join(' ; ')}`.trimEnd();
        return [
          `Pattern ${where}`,
          `approach ${step.approachMm} mm`,
          ...(step.direction === null ? [] : [`pointing ${xyz(step.direction)}`]),
          ...(step.routine === null ? [] : [`calling ${this.routine(step.routine)}`]),
        ];
      }
      case 'wait':
        return [`Wait ${step.durationS} s`];
      case 'wait-input':
        return [
          `Wait for input ${this.signal(step.signal, 'in')} ${onOff(step.is)}`,
          ...(step.timeoutS === null ? [] : [`at most ${step.timeoutS} s`]),
          step.otherwise === 'stop'
            ? 'then stop'
            : step.otherwise === 'go-on'
              ? 'then go on'
              : `then jump to ${quote(step.otherwise.jump)}`,
        ];
      case 'output':
        return [`Set output ${this.signal(step.signal, 'out')} ${onOff(step.on)}`];
      case 'hold':
        return [`Hold joints ${step.joints.map((id) => this.joint(id)).join(' ')}`];
      case 'let-go':
        return [`Let go joints ${step.joints.map((id) => this.joint(id)).join(' ')}`];
      case 'pick-up':
        return [`Pick up ${this.payload(step.payload)} with ${this.tool(step.tool)}`];
      case 'put-down':
        return [`Put down with ${this.tool(step.tool)}`];
      case 'swap-tool': {
        const end = (id: string | null): string => (id === null ? 'nothing' : this.tool(id));
        return [`Swap ${end(step.off)} for ${end(step.on)}`];
      }
      case 'speed':
        return [`Speed of all ${percent(step.share)}`];
      case 'marker':
        return [`Marker ${quote(step.name)}`];
      case 'jump':
        return [`Jump to ${quote(step.to)}`];
      case 'repeat':
        return [step.times === null ? 'Repeat for ever' : `Repeat ${step.times} times`];
      case 'if':
        return [
          'signal' in step.when
            ? `If input ${this.signal(step.when.signal, 'in')} ${onOff(step.when.is)}`
            : `If counter ${quote(step.when.counter)} ${step.when.is} ${step.when.value}`,
        ];
      case 'else':
        return ['Otherwise'];
      case 'counter':
        return [
          `Counter ${quote(step.counter)} ${'set' in step.change ? `set ${step.change.set}` : `add ${step.change.add}`}`,
        ];
      case 'call':
        return [`Call ${this.routine(step.routine)}`];
      case 'return':
        return ['Return'];
      case 'alongside':
        return [`Alongside ${this.routine(step.routine)}`];
      case 'group':
        return [`Group ${quote(step.name)}`];
      case 'end':
        return ['End'];
      case 'note':
        return ['Note'];
    }
  }

  sentence(step: Step): string {
    const parts = this.head(step);
    if ('tool' in step && step.tool !== undefined && !['grip', 'pick-up', 'put-down'].includes(step.kind))
      parts.push(`with ${this.tool(step.tool)}`);
    if ('keep' in step && step.keep !== undefined) parts.push(keepWords[step.keep]);
    if ('blendMm' in step && step.blendMm !== undefined) parts.push(`rounded by ${step.blendMm} mm`);
    if ('pace' in step) parts.push(this.pace(step.pace));
    if ('profile' in step && step.profile !== undefined) parts.push(profileWords[step.profile]);
    if (!step.enabled) parts.push('skipped');
    if (step.note) parts.push(`note ${quote(step.note)}`);
    return parts.join(', ');
  }
}

/** Shares as percent, without what only rounding adds. */
const percent = (share: number): string => `${Number((share * 100).toPrecision(15))} %`;
const onOff = (is: boolean): string => (is ? 'on' : 'off');

export function formatRoutine(rig: Rig, routine: Routine): string {
  const { depth } = structureOf(routine.steps);
  const writer = new Writer(rig);
  return routine.steps.map((step, k) => `${'  '.repeat(depth[k])}${writer.sentence(step)}\n`).join('');
}
