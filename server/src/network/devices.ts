/** Devices that were paired, kept in a file of the data folder: a backup that is put back brings no device in again. */
import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { deviceRights, type Device, type DeviceRight } from '@cork-elbow/core/contract';

const keptSchema = z.strictObject({
  open: z.boolean(),
  port: z.number().int(),
  devices: z.array(
    z.strictObject({
      id: z.string(),
      /** Of its token, SHA-256: who reads this file cannot come in by it. */
      hash: z.string(),
      name: z.string(),
      right: z.enum(deviceRights),
      pairedAt: z.iso.datetime(),
    }),
  ),
});
type Kept = z.infer<typeof keptSchema>;
const usual: Kept = { open: false, port: 4443, devices: [] };

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

export class Devices {
  /** When each asked for something last (ms), since the server began. */
  private readonly seen = new Map<string, number>();
  private constructor(
    private readonly file: string,
    private kept: Kept,
  ) {}

  static async in(folder: string): Promise<Devices> {
    const file = join(folder, 'network.json');
    const text = await readFile(file, 'utf8').catch(() => '');
    let kept = usual;
    try {
      kept = keptSchema.parse(JSON.parse(text));
    } catch {
      // None was chosen, or nothing that can be read: nobody comes in.
    }
    return new Devices(file, kept);
  }

  get settings(): { readonly open: boolean; readonly port: number } {
    return this.kept;
  }
  choose(open: boolean, port: number): Promise<void> {
    return this.keep({ ...this.kept, open, port });
  }

  get all(): Device[] {
    return this.kept.devices.map(({ id, name, right, pairedAt }) => {
      const seen = this.seen.get(id);
      return { id, name, right, pairedAt, seenAt: seen === undefined ? null : new Date(seen).toISOString() };
    });
  }
  /** What a device may do now; null: it was removed. */
  rightOf(id: string): DeviceRight | null {
    return this.kept.devices.find((device) => device.id === id)?.right ?? null;
  }
  /** Whose token this is; it is seen by that. */
  byToken(token: string, now: number): string | null {
    const hash = hashOf(token);
    const device = this.kept.devices.find((each) => each.hash === hash);
    if (device) this.seen.set(device.id, now);
    return device?.id ?? null;
  }

  /** A new device, which may watch; its token, which is told once. */
  async add(name: string, now: Date): Promise<string> {
    const token = randomBytes(32).toString('hex');
    const device = {
      id: randomUUID(),
      hash: hashOf(token),
      name,
      right: 'watch',
      pairedAt: now.toISOString(),
    } as const;
    await this.keep({ ...this.kept, devices: [...this.kept.devices, device] });
    return token;
  }
  /** Whether there is such a device. */
  async change(id: string, change: { name?: string | undefined; right?: DeviceRight | undefined }): Promise<boolean> {
    const { name, right } = change;
    const devices = this.kept.devices.map((device) =>
      device.id === id ? { ...device, ...(name ? { name } : {}), ...(right ? { right } : {}) } : device,
    );
    await this.keep({ ...this.kept, devices });
    return this.rightOf(id) !== null;
  }
  async remove(id: string): Promise<boolean> {
    const before = this.kept.devices.length;
    await this.keep({ ...this.kept, devices: this.kept.devices.filter((device) => device.id !== id) });
    return this.kept.devices.length < before;
  }

  /** In memory at once, so that a removed device is out before the disk has answered. */
  private async keep(kept: Kept): Promise<void> {
    this.kept = kept;
    this.writing = this.writing.then(async () => {
      await writeFile(`${this.file}.new`, JSON.stringify(this.kept), { mode: 0o600 });
      await rename(`${this.file}.new`, this.file);
    });
    return this.writing;
  }
  private writing = Promise.resolve();
}
