import fc from 'fast-check';
import { vi } from 'vitest';
import { strictSentences } from '@cork-elbow/core/findings';

strictSentences();
fc.configureGlobal({ numRuns: 25, seed: 20261 });

type Call = (...args: unknown[]) => unknown;
// There are no workers in this environment: what the worker would compute is computed in the page.
vi.mock('comlink', async (original) => {
  const call = async (name: string, args: unknown[]): Promise<unknown> => {
    const { compute } = await import('../web/src/workers/compute');
    return (compute as unknown as Record<string, Call>)[name](...args);
  };
  return {
    ...(await original<object>()),
    wrap: () =>
      new Proxy(
        {},
        {
          get:
            (_, name: string) =>
            (...args: unknown[]) =>
              call(name, args),
        },
      ),
    proxy: <T>(value: T): T => value,
  };
});
vi.stubGlobal('Worker', class {});
