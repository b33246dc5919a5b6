/** What the base stands on as a line on the ground, with a peg where its load presses. */
import { BufferGeometry, CylinderGeometry, Float32BufferAttribute, LineLoop, Mesh } from 'three';
import { drawn } from './layer';

/** The line lies so far over the ground (m) that it is seen; size of the peg. */
const ABOVE = 0.001;
const PEG = { radius: 0.006, height: 0.024 };

export const standing = drawn('standing', ({ corners, at, isSafe }, { ink }) => {
  const colour = isSafe ? ink.palette.cork : ink.palette.alarm;
  const span = new LineLoop(
    new BufferGeometry().setAttribute(
      'position',
      new Float32BufferAttribute(
        corners.flatMap(([x, y, z]) => [x, y, z + ABOVE]),
        3,
      ),
    ),
    ink.line(colour),
  );
  if (!at) return [span];
  const peg = new Mesh(new CylinderGeometry(0, PEG.radius, PEG.height, 24), ink.face(colour));
  peg.rotation.x = -Math.PI / 2;
  peg.position.set(at[0], at[1], at[2] + PEG.height / 2);
  return [span, peg];
});
