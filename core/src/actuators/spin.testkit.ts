/** A tile dipper whose turn goes round and round on a continuous servo, and a routine that spins it. */
import { tileDipper } from '../../../demo';
import { compile, type Mechanism } from '../mechanism';
import { parseRig, type Rig } from '../rig';
import { catalogue } from './catalogue';
import type { SpinDrive } from './spin-map';

export function spinningDipper(change: (drive: SpinDrive, rig: Rig) => void = () => undefined): {
  rig: Rig;
  mechanism: Mechanism;
} {
  const rig = structuredClone(tileDipper());
  const turn = rig.mechanism.joints.find((j) => j.id === 'turn')!;
  if (turn.type !== 'revolute') throw new Error('the turn is no turning joint');
  rig.mechanism.joints[rig.mechanism.joints.findIndex((j) => j.id === 'turn')] = {
    ...turn,
    type: 'continuous',
    limits: { maxSpeed: 200 },
  } as Rig['mechanism']['joints'][number];
  const figures = catalogue.find((entry) => entry.figures.kind === 'continuous-servo')!.figures;
  const k = rig.drives.findIndex((d) => d.id === 'm-turn');
  rig.drives[k] = { ...structuredClone(figures), id: 'm-turn', name: 'Turn motor' } as SpinDrive;
  rig.builds[0].calibrations = rig.builds[0].calibrations.filter((c) => c.drive !== 'm-turn');
  delete rig.builds[0].trims['m-turn'];
  const step = { enabled: true, note: '' } as const;
  rig.routines.push({
    ...rig.routines[0],
    id: 'whirl',
    name: 'Whirl',
    steps: [
      { ...step, id: 'a', kind: 'spin', joint: 'turn', speed: 90, until: { forS: 2 } },
      { ...step, id: 'b', kind: 'spin', joint: 'turn', speed: -30, until: { forS: 1 } },
    ],
  } as Rig['routines'][number]);
  change(rig.drives[k] as SpinDrive, rig);
  const parsed = parseRig(rig);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  const compiled = compile(parsed.value.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  return { rig: parsed.value, mechanism: compiled.mechanism };
}
