/** What the worker can be asked: one file a job in `jobs/`, one line in its catalogue. */
import { speedOnlySlots } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { contactScene, type ContactScene } from '@cork-elbow/core/contact';
import type { Job } from '@cork-elbow/core/jobs';
import type { CompiledTool, Mechanism } from '@cork-elbow/core/mechanism';
import { MoveCache } from '@cork-elbow/core/routine';
import type { Build, Rig } from '@cork-elbow/core/rig';

/** A document as one of its builds has it, opened once for all that is asked of it. */
export interface Context {
  readonly rig: Rig;
  readonly build: Build;
  readonly mechanism: Mechanism;
  /** Joints that can only be told how fast to turn. */
  readonly speedOnly: ReadonlySet<number>;
  readonly scene: ContactScene;
  /** Moves worked out before: only what an edit changes is worked out again. They belong to one mechanism. */
  readonly moves: MoveCache;
  toolOf(id: string): CompiledTool | null;
}

export interface JobKind<Request, Answer> {
  /** What is shown while it is under way. */
  readonly label: string;
  /** Null where what is asked of is not there any more. */
  run(context: Context, request: Request): Job<Answer> | null;
  /** What of an answer goes to the page instead of being copied. */
  moved?(answer: Answer): Transferable[];
}
export const defineJob = <Request, Answer>(job: JobKind<Request, Answer>): JobKind<Request, Answer> => job;

let moves = { of: '', cache: new MoveCache() };

/** Null where the arm cannot be. */
export function openContext(rig: Rig, buildId: string): Context | null {
  const stands = standing(rig, buildId);
  if (!stands.ok) return null;
  const { mechanism, build } = stands;
  const of = JSON.stringify([rig.mechanism, build.mounting]);
  if (moves.of !== of) moves = { of, cache: new MoveCache() };
  const { cache } = moves;
  let scene: ContactScene | null = null;
  return {
    rig,
    build,
    mechanism,
    speedOnly: speedOnlySlots(rig, mechanism),
    get scene() {
      return (scene ??= contactScene(rig, mechanism));
    },
    moves: cache,
    toolOf: (id) => mechanism.tools.find((tool) => tool.id === id) ?? null,
  };
}
