import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import { compile } from '@cork-elbow/core/mechanism';
import { reachMapJob, shellMesh, type MapRequest, type ReachMap, type ShellMesh } from '@cork-elbow/core/reach';
import type { MechanismDoc } from '@cork-elbow/core/rig';
import { heldBy, Loading } from '@cork-elbow/core/loads';
import { defineJob } from '../define-job';
import type { Holding } from './worst';

/** An arm as it was pinned, to hold a map against. */
export interface Pinned {
  readonly doc: MechanismDoc;
  readonly mounting: MechanismDoc['base']['mounting'] | null | undefined;
}
export interface MadeMap {
  readonly map: ReachMap;
  readonly shell: ShellMesh | null;
  /** The pinned arm's, on the same cells; null without one, or where it has no such tool. */
  readonly earlier: ReachMap | null;
}

/** Where the tool can be; of a pinned arm too. */
export const map = defineJob({
  label: 'Mapping the reach',
  run(
    { rig, mechanism, toolOf },
    {
      toolId,
      request,
      pinned,
      holding,
    }: {
      toolId: string;
      request: MapRequest;
      pinned: Pinned | null;
      /** What the tool holds, where torque is asked about; an empty hand weighs nothing. */
      holding?: Holding['payload'] | null;
    },
  ) {
    const tool = toolOf(toolId);
    if (!tool) return null;
    return jobOf(
      (function* (): Generator<number, MadeMap, void> {
        const loading = holding ? new Loading(rig, mechanism, [heldBy(tool, holding)]) : null;
        const now = yield* piecesOf(reachMapJob(mechanism, tool, request, loading));
        const shell = request.plane === 'shell' ? shellMesh(now) : null;
        const before = pinned && compile(pinned.doc, pinned.mounting);
        const same = before?.ok ? before.mechanism.tools.find((t) => t.id === toolId) : undefined;
        if (!before?.ok || !same) return { map: now, shell, earlier: null };
        const onSameCells = { ...request, cell: now.grid.cell };
        return { map: now, shell, earlier: yield* piecesOf(reachMapJob(before.mechanism, same, onSameCells)) };
      })(),
    );
  },
  moved: ({ shell }) => (shell ? [shell.positions.buffer, shell.triangles.buffer] : []),
});
