/** Frames of an operator panel. */

/** Checksum of the open protocol: CRC-16, polynomial 0x8005 reflected, start 0xFFFF, low byte first. */
export function panelChecksum(bytes: readonly number[]): [number, number] {
  let crc = 0xffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1;
  }
  return [crc & 255, crc >> 8];
}
