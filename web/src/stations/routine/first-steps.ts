/** A step of each kind as it is first put in; what opens brings its end. */
import type { NewStep } from '@cork-elbow/core/routine';
import type { Rig, Routine, Step, Target } from '@cork-elbow/core/rig';

export function firstStep(kind: Step['kind'], rig: Rig, routine: Routine): NewStep[] {
  const [pose] = rig.poses;
  const target: Target = pose ? { pose: pose.id } : { joints: {} };
  // Towards the base, where an arm that is stretched out can still go.
  const aside: Target = { shift: { xyzMm: [-8, 8, 0], along: 'world' } };
  const inward: Target = { shift: { xyzMm: [-16, 0, 0], along: 'world' } };
  const pace = { speedShare: 0.5 };
  const tool = rig.mechanism.tools.find((t) => t.grip)?.id ?? rig.mechanism.tools[0]?.id ?? 'none';
  const input = rig.signals.find((s) => s.way === 'in')?.id ?? 'none';
  const output = rig.signals.find((s) => s.way === 'out')?.id ?? 'none';
  const other = rig.routines.find((r) => r.id !== routine.id)?.id ?? 'none';
  const joint = rig.mechanism.joints.find((j) => j.type !== 'fixed')!.id;
  const turning = rig.mechanism.joints.find((j) => j.type === 'continuous')?.id ?? joint;
  const spot = rig.spots[0]?.id ?? 'none';
  const taken = new Set(routine.steps.flatMap((s) => (s.kind === 'marker' ? [s.name] : [])));
  let n = 1;
  while (taken.has(`mark ${n}`)) n++;
  const end: NewStep = { kind: 'end' };
  const made: Record<Step['kind'], NewStep[]> = {
    'joint-move': [{ kind, target, pace } as NewStep],
    'straight-move': [{ kind, target, pace } as NewStep],
    arc: [{ kind: 'arc', via: aside, target: inward, pace }],
    circle: [{ kind: 'circle', via: aside, second: inward, turns: 1, pace }],
    path: [{ kind: 'path', through: [inward, aside], blendMm: 5, pace }],
    approach: [{ kind: 'approach', target, distanceMm: 30, lastMmPerS: 30, pace }],
    retreat: [{ kind: 'retreat', distanceMm: 30, pace }],
    grip: [{ kind: 'grip', tool, to: 'closed', pace }],
    spin: [{ kind: 'spin', joint: turning, speed: 30, until: { forS: 2 } }],
    pattern: [
      {
        kind: 'pattern',
        places: { kind: 'grid', spot, columns: 3, rows: 2, columnMm: [20, 0, 0], rowMm: [0, 20, 0] },
        direction: null,
        approachMm: 20,
        routine: null,
        pace,
      },
    ],
    wait: [{ kind: 'wait', durationS: 1 }],
    'wait-input': [{ kind: 'wait-input', signal: input, is: true, timeoutS: 30, otherwise: 'stop' }],
    output: [{ kind: 'output', signal: output, on: true }],
    hold: [{ kind: 'hold', joints: [joint] }],
    'let-go': [{ kind: 'let-go', joints: [joint] }],
    'pick-up': [{ kind: 'pick-up', tool, payload: rig.payloads[0]?.id ?? 'none' }],
    'put-down': [{ kind: 'put-down', tool }],
    'swap-tool': [{ kind: 'swap-tool', off: tool === 'none' ? null : tool, on: null }],
    speed: [{ kind: 'speed', share: 0.5 }],
    marker: [{ kind: 'marker', name: `mark ${n}` }],
    jump: [{ kind: 'jump', to: [...taken][0] ?? 'mark 1' }],
    repeat: [{ kind: 'repeat', times: 3 }, end],
    if: [
      {
        kind: 'if',
        when: input === 'none' ? { counter: 'count', is: 'below', value: 3 } : { signal: input, is: true },
      },
      end,
    ],
    else: [{ kind: 'else' }],
    counter: [{ kind: 'counter', counter: 'count', change: { add: 1 } }],
    call: [{ kind: 'call', routine: other }],
    return: [{ kind: 'return' }],
    alongside: [{ kind: 'alongside', routine: other }, end],
    group: [{ kind: 'group', name: 'group' }, end],
    end: [end],
    note: [{ kind: 'note', note: 'Note' }],
  };
  return made[kind];
}
