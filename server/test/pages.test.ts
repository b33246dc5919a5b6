/** The built pages as they are sent: compressed for who can read that, kept for good where their name is their contents. */
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { get, type IncomingHttpHeaders } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, brotliDecompressSync, gunzipSync, gzipSync } from 'node:zlib';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { start, type Running } from './harness';

const script = `export const words = ${JSON.stringify('one after the other '.repeat(400))};\n`;
let server: Running;
let pages: string;
beforeAll(async () => {
  pages = await mkdtemp(join(tmpdir(), 'cork-elbow-pages-'));
  await mkdir(join(pages, 'assets'));
  await writeFile(join(pages, 'index.html'), '<title>Cork Elbow</title>');
  await writeFile(join(pages, 'assets/words-Abc123.js'), script);
  await writeFile(join(pages, 'assets/words-Abc123.js.br'), brotliCompressSync(script));
  await writeFile(join(pages, 'assets/words-Abc123.js.gz'), gzipSync(script));
  server = await start({ webFolder: pages, demo: false });
});
afterAll(async () => {
  await server.close();
  await rm(pages, { recursive: true });
});
/** As it comes over the line, nothing unpacked. */
const asSent = (
  path: string,
  accepts?: string,
): Promise<{ status: number; headers: IncomingHttpHeaders; body: Buffer }> =>
  new Promise((done, fail) => {
    get(server.url + path, { headers: accepts ? { 'accept-encoding': accepts } : {} }, (response) => {
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part));
      response.on('end', () =>
        done({ status: response.statusCode!, headers: response.headers, body: Buffer.concat(parts) }),
      );
    }).on('error', fail);
  });

it('are the same whichever way they are packed, and as small as who asks can read', async () => {
  const path = '/assets/words-Abc123.js';
  const [plain, gzip, brotli] = [
    await asSent(path),
    await asSent(path, 'gzip'),
    await asSent(path, 'gzip, deflate, br'),
  ];
  expect(plain.headers['content-encoding']).toBeUndefined();
  expect(plain.body.toString()).toBe(script);
  expect(gzip.headers['content-encoding']).toBe('gzip');
  expect(gunzipSync(gzip.body).toString()).toBe(script);
  expect(brotli.headers['content-encoding']).toBe('br');
  expect(brotliDecompressSync(brotli.body).toString()).toBe(script);
  for (const { headers } of [plain, gzip, brotli]) expect(headers['content-type']).toMatch(/javascript/);
  expect(brotli.body.length).toBeLessThan(plain.body.length / 5);
});
it('are kept for good where the name carries a hash; the page itself is asked for each time, at every address', async () => {
  expect((await asSent('/assets/words-Abc123.js', 'br')).headers['cache-control']).toBe(
    'public, max-age=31536000, immutable',
  );
  for (const path of ['/', '/rigs/some-arm/bench']) {
    const { status, headers, body } = await asSent(path);
    expect([path, status, headers['cache-control']]).toEqual([path, 200, 'no-cache']);
    expect(body.toString()).toContain('Cork Elbow');
  }
});
