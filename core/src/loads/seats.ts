/** What a rig's motors and payloads weigh where they are. */
import { identity, STRIDE } from '../linear';
import { bodyOf, type CompiledTool, type Mechanism } from '../mechanism';
import type { Hardware, Payload } from '../rig';
import type { Held, Seated } from './dynamics';

/** Motors that say where they sit; the others are in the masses of the links. */
export const seatsOf = ({ drives }: Pick<Hardware, 'drives'>, { index, unalign }: Mechanism): Seated[] =>
  drives.flatMap(({ seat, massG = 0 }): Seated[] => {
    const joint = seat && (seat.joint === null ? -1 : index.get(seat.joint));
    if (joint === undefined || !massG) return [];
    const weighs = { massG, comMm: seat!.xyzMm, inertiaKgM2: null };
    return [{ joint, body: joint < 0 ? bodyOf(weighs, identity()) : bodyOf(weighs, unalign, STRIDE * joint) }];
  });

/** A payload as a tool holds it. */
export const heldBy = (tool: CompiledTool, payload: Pick<Payload, 'massG' | 'comMm' | 'inertiaKgM2'>): Held => ({
  tool,
  body: bodyOf(payload, identity()),
});
