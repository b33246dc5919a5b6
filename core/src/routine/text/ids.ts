/** Which of the steps before each step of an edited text is. */
import { freeId, type Step } from '../../rig';

/** Steps keep their ids along the longest run of steps, in order, that say the same before and now. */
export function withIds(bodies: readonly { kind?: unknown }[], before: readonly Step[]): Step[] {
  const content = (body: object): string => JSON.stringify(sorted({ ...body, id: undefined }));
  const [old, now] = [before.map(content), bodies.map(content)];
  const [n, m] = [old.length, now.length];
  const ids: (string | null)[] = bodies.map(() => null);
  // Lengths of the longest common runs from (i, j) on.
  const longest = Array.from({ length: n + 1 }, () => new Uint16Array(m + 1));
  for (let i = n - 1; i >= 0; i--)
    for (let j = m - 1; j >= 0; j--)
      longest[i][j] = old[i] === now[j] ? longest[i + 1][j + 1] + 1 : Math.max(longest[i + 1][j], longest[i][j + 1]);
  const used = new Set<number>();
  for (let i = 0, j = 0; i < n && j < m;) {
    if (old[i] === now[j]) {
      ids[j] = before[i].id;
      used.add(i);
      i++;
      j++;
    } else if (longest[i + 1][j] >= longest[i][j + 1]) i++;
    else j++;
  }
  // One that was changed keeps its id where its place says which one it was.
  let next = 0;
  ids.forEach((id, j) => {
    if (id !== null) {
      next = before.findIndex((step) => step.id === id) + 1;
      return;
    }
    if (next < n && !used.has(next) && before[next].kind === bodies[j].kind) ids[j] = before[next++].id;
  });
  const taken = before.map((step) => step.id);
  return bodies.map((body, k) => {
    const id = ids[k] ?? freeId('step', taken);
    taken.push(id);
    return { id, ...body } as Step;
  });
}

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, v]) => v !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, v]) => [k, sorted(v)]),
  );
}
