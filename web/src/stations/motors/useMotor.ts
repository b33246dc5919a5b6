/** The motors of the open rig joint by joint, the chosen one, and edits of it. */
import { computed } from 'vue';
import { isSpin, nativeAt } from '@cork-elbow/core/actuators';
import type { Drive, Rig, Transmission } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { useSlots } from '../../shared/joints';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { inUnit } from '@cork-elbow/core/mechanism';

export function useMotor() {
  const rigs = useRigStore();
  const view = useViewStore();
  const slots = useSlots();

  const rows = computed(() =>
    slots.value.map((info) => {
      const transmission = rigs.rig!.transmissions.find((t) => t.joints.some((id) => id === info.id));
      // With as many motors as joints the joint's own place names its motor; else they share the first.
      const k = transmission ? (transmission.joints as readonly string[]).indexOf(info.id) : -1;
      const driveId = transmission && (transmission.drives[k] ?? transmission.drives[0]);
      const drive = rigs.rig!.drives.find((d) => d.id === driveId);
      return {
        info,
        transmission,
        drive,
        driveMap: rigs.driven.find((m) => m.drive.id === driveId),
        spinMap: rigs.motors.filter(isSpin).find((m) => m.drive.id === driveId),
        wire: drive && rigs.rig!.wiring.find((w) => w.drive === drive.id),
        value: inUnit(rigs.mechanism!, info.slot, view.q[info.slot]),
      };
    }),
  );
  const row = computed(() => rows.value.find((r) => r.info.id === view.selected) ?? rows.value[0]);

  const commit = useEdit();
  const onDrive = (label: string, change: (drive: Drive) => void): string | void => {
    const { drive } = row.value!;
    return commit(`${label} of ${drive!.name}`, (draft) => change(draft.drives.find((d) => d.id === drive!.id)!));
  };
  const onTie = (label: string, change: (transmission: Transmission) => void): string | void => {
    const { transmission, info } = row.value!;
    return commit(`${label} of ${info.name}`, (draft) =>
      change(draft.transmissions.find((t) => t.id === transmission!.id)!),
    );
  };
  const onBuild = (label: string, change: (build: Rig['builds'][number]) => void): string | void => {
    const id = rigs.build!.id;
    return commit(label, (draft) => change(draft.builds.find((b) => b.id === id)!), 'build');
  };
  /** What the motor of a row is sent now, with its unit. */
  function nowOf(r: (typeof rows.value)[number]): string {
    const { mechanism } = rigs;
    if (r.spinMap) return `${r.spinMap.stopUs} µs`;
    const native = r.driveMap && mechanism ? nativeAt(r.driveMap, mechanism, view.q) : null;
    return native === null || !r.driveMap ? '–' : `${formatNumber(native, 0)} ${r.driveMap.native.unit}`;
  }
  return { rows, row, commit, onDrive, onTie, onBuild, nowOf };
}
