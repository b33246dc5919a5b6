/** Writes docs/messages.md from the catalogue: npx tsx scripts/messages.mjs */
import { writeFileSync } from 'node:fs';
import { catalogue, codes } from '../core/src/catalogue/index.ts';

const rows = codes.map((code) => {
  const { severity, status, text, remedy } = catalogue[code];
  return `| \`${code}\` | ${status ?? severity} | ${text.replace(/\|/g, '\\|')} | ${remedy ?? ''} |`;
});
writeFileSync(
  new URL('../docs/messages.md', import.meta.url),
  `# Messages\n\nEvery code that a finding, a reason or an error can carry. A number is the HTTP status of an error; *stop* must be mended before a run, *look* is worth a look, *note* is good to know.\n\n| code | kind | sentence | remedy |\n| --- | --- | --- | --- |\n${rows.join('\n')}\n`,
);
