/** Numbers of variable length in flash, as tables and steps have them. */
export const flash = String.raw`
// ── What is played, byte by byte: seven bits a byte, lowest first, the eighth says that more follow ─────────────────

static uint32_t readAt;  // the next byte
static inline uint8_t readByte() { return pgm_read_byte(&PLAYED[readAt++]); }
static uint32_t readVar() {
  uint32_t value = 0;
  for (uint8_t shift = 0;; shift = (uint8_t)(shift + 7)) {
    const uint8_t byte = readByte();
    value |= (uint32_t)(byte & 127) << shift;
    if (!(byte & 128)) return value;
  }
}
static int32_t readSigned() {
  const uint32_t value = readVar();
  return (int32_t)(value >> 1) ^ -(int32_t)(value & 1);
}
`;
