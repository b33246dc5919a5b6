/** What a player plays: a table in flash, a routine as its motors are told it, frame by frame. */
export const table = String.raw`
// ── The routine as a table ──────────────────────────────────────────────────────────────────────────────────────────

// The table, read from its beginning to its end: where motors are in this frame and the next one.
static long frame;        // number of the one in next
static uint8_t steady;    // frames that still go on as the last one did
static Value before[MOTOR_COUNT], next[MOTOR_COUNT], change[MOTOR_COUNT];
static uint32_t levels;   // of outputs, a bit each
static uint32_t inFrame;  // 256ths of a millisecond since this frame

static void readFrame() {
  frame++;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) before[k] = next[k];
  if (frame % RESTART_FRAMES == 0) {
    steady = 0;
    for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
      next[k] = (Value)readSigned();
      change[k] = 0;
    }
    levels = readVar();
    return;
  }
  if (!steady) {
    steady = readByte();
    if (!steady) {
      for (uint8_t k = 0; k < MOTOR_COUNT; k++) change[k] = (Value)(change[k] + readSigned());
      levels ^= readVar();
      steady = 1;
    }
  }
  steady--;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) next[k] = (Value)(next[k] + change[k]);
}
static void rewind() {
  readAt = 0;
  frame = -1;
  readFrame();
}

static void switchOutputs() {
  uint8_t bit = 0;
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (pgm_read_byte(&SIGNALS[k].isOutput)) setPin(pgm_read_byte(&SIGNALS[k].pin), levels >> bit++ & 1);
}
static inline Value firstOf(uint8_t k) { return next[k]; }
static void atFirst() {
  inFrame = 0;
  switchOutputs();
  if (FRAME_COUNT > 1) readFrame();
}
static void play() {
  inFrame += pace;
  while (inFrame >= (uint32_t)FRAME_MS * FULL_PACE) {
    inFrame -= (uint32_t)FRAME_MS * FULL_PACE;
    switchOutputs();
    if (frame + 1 < FRAME_COUNT) {
      readFrame();
      continue;
    }
    for (uint8_t k = 0; k < MOTOR_COUNT; k++) before[k] = motors[k].value = next[k];
    done();
    return;
  }
  const long all = (long)FRAME_MS * FULL_PACE;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    motors[k].value = paced(k, before[k] + share((long)next[k] - before[k], (long)inFrame, all));
}
`;
