import { z } from 'zod';
import { examples } from './shapes';

/** What a device of the network may do: see and stop; or change and move as well. */
export const deviceRights = ['watch', 'drive'] as const;
export type DeviceRight = (typeof deviceRights)[number];

const deviceSchema = z.strictObject({
  id: z.string().describe('by which it is changed and removed'),
  name: z.string().describe('as somebody called it while it was paired'),
  right: z.enum(deviceRights).describe('watch: sees everything and may stop; drive: saves and moves as well'),
  pairedAt: z.iso.datetime().describe('when it was paired'),
  seenAt: z.iso.datetime().nullable().describe('when it asked for something last; null: not since the server began'),
});
export type Device = z.infer<typeof deviceSchema>;

export const networkAnswer = z.strictObject({
  open: z.boolean().describe('whether devices of the local network may come in'),
  port: z.number().int().describe('TCP port for them'),
  addresses: z.array(z.string()).describe('where they find it'),
  fingerprint: z.string().nullable().describe('of the certificate, SHA-256; null before there is one'),
  until: z.iso.datetime().nullable().describe('how long the certificate holds'),
  problem: z.string().nullable().describe('why it is not open though it should be, one sentence'),
  code: z
    .strictObject({
      text: z.string().describe('typed on the device that is to be paired'),
      forS: z.number().describe('seconds for which it still holds'),
    })
    .nullable()
    .describe('pairs one device; null while none is shown'),
  devices: z.array(deviceSchema),
});
export type NetworkAnswer = z.infer<typeof networkAnswer>;
export const networkBody = z
  .strictObject({
    open: z.boolean().describe('whether devices of the local network may come in'),
    port: z.number().int().min(1024).max(65_535).optional().describe('TCP port for them; left out: as it was'),
  })
  .meta(examples({ 'open to the local network': { open: true, port: 4443 } }));
export const deviceBody = z
  .strictObject({
    name: z.string().trim().min(1).max(60).optional().describe('what it is called'),
    right: z.enum(deviceRights).optional().describe('what it may do'),
  })
  .meta(examples({ 'a device that may drive': { right: 'drive' } }));
