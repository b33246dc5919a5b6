/** What an accessibility scan of a page finds, a line each. */
import axe from 'axe-core';
import type { Page } from '@playwright/test';

/** `within`: a part of the page; `colours`: contrast alone, for what is the same in everything else. */
export async function violationsOf(
  page: Page,
  { within, colours = false }: { within?: string; colours?: boolean } = {},
): Promise<string[]> {
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe.source);
  return page.evaluate(
    async ([part, isColours]) => {
      const { violations } = await (window as unknown as { axe: typeof axe }).axe.run(part ?? document, {
        runOnly: isColours
          ? { type: 'rule', values: ['color-contrast'] }
          : { type: 'tag', values: ['wcag2a', 'wcag2aa'] },
        resultTypes: ['violations'],
      });
      return violations.map(
        (v) =>
          `${v.id} ${v.nodes
            .slice(0, 3)
            .map((n) => n.html.slice(0, 120))
            .join(' | ')}`,
      );
    },
    [within, colours] as const,
  );
}
