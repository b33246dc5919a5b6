/** Values over time as points of a line, no more than can be told apart: the worst of each stretch, so that no peak is lost. */

const PLACES = 900;

/** `worse`: whether the first is worse than the second. */
export function thinned(
  timeS: Float64Array,
  values: Float64Array,
  worse: (a: number, b: number) => boolean,
): { x: number; y: number }[] {
  const every = Math.max(1, Math.floor(timeS.length / PLACES));
  const points: { x: number; y: number }[] = [];
  for (let i = 0; i < timeS.length; i += every) {
    let worst = i;
    for (let j = i + 1; j < Math.min(i + every, timeS.length); j++) if (worse(values[j], values[worst])) worst = j;
    points.push({ x: timeS[worst], y: values[worst] });
  }
  return points;
}
