import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';

const root = join(import.meta.dirname, '../..');

it('every file and folder that the documents name is there', () => {
  const documents = ['README.md', ...readdirSync(join(root, 'docs')).map((name) => `docs/${name}`)].filter((name) =>
    name.endsWith('.md'),
  );
  const named = documents.flatMap((name) =>
    [...readFileSync(join(root, name), 'utf8').matchAll(/(?:core|server|web|demo|e2e|scripts)\/[\w./-]*[\w/]/g)].map(
      ([path]) => [name, path] as const,
    ),
  );
  expect(named.length).toBeGreaterThan(20);
  // What is built is there only after a build.
  const gone = named.filter(([, path]) => !path.includes('/dist') && !existsSync(join(root, path)));
  expect(gone).toEqual([]);
});
