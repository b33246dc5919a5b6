/** The certificate by which devices of the network know this computer: made on first use, kept in the data folder. */
import { createPrivateKey, X509Certificate } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { isIP } from 'node:net';
import { join } from 'node:path';
import { generate } from 'selfsigned';

export interface Certificate {
  readonly key: string;
  readonly cert: string;
  /** SHA-256, as browsers show it. */
  readonly fingerprint: string;
  readonly until: Date;
}

const DAY = 86_400_000;
/** Some browsers take none that hold for longer (days). */
const HOLDS = 820;
/** One that ends so soon (days) is made anew. */
const ENDS_SOON = 14;

const read = (key: string, cert: string): Certificate => {
  const known = new X509Certificate(cert);
  if (!known.checkPrivateKey(createPrivateKey(key))) throw new Error('The key is of another certificate.');
  return { key, cert, fingerprint: known.fingerprint256, until: new Date(known.validTo) };
};

/** The one of a folder; made anew where there is none, where it is none, or where it ends soon. `names`: of this computer, and its addresses. */
export async function certificateIn(folder: string, names: readonly string[], now: Date): Promise<Certificate> {
  const files = ['network-key.pem', 'network-cert.pem'].map((name) => join(folder, name));
  try {
    const [key, cert] = await Promise.all(files.map((file) => readFile(file, 'utf8')));
    const kept = read(key, cert);
    if (kept.until.getTime() - now.getTime() > ENDS_SOON * DAY) return kept;
  } catch {
    // There is none, or none that can be used.
  }
  const made = await generate([{ name: 'commonName', value: 'Cork Elbow' }], {
    ...{ keyType: 'ec', curve: 'P-256', algorithm: 'sha256' },
    // Clocks of other devices may be behind.
    notBeforeDate: new Date(now.getTime() - DAY),
    notAfterDate: new Date(now.getTime() + HOLDS * DAY),
    extensions: [
      { name: 'basicConstraints', cA: false },
      { name: 'keyUsage', digitalSignature: true },
      { name: 'extKeyUsage', serverAuth: true },
      {
        name: 'subjectAltName',
        altNames: names.map((value) => (isIP(value) ? { type: 7, ip: value } : { type: 2, value })),
      },
    ],
  });
  await Promise.all([made.private, made.cert].map((text, k) => writeFile(files[k], text, { mode: 0o600 })));
  return read(made.private, made.cert);
}
