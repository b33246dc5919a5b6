/** Joints that are looked at: what a motor is told beside, so that its joint comes to stand where it is to. */
export const watch = String.raw`
#if USES_WATCH
// ── Joint sensors: a share of what a joint stands off, cycle by cycle, while it is told to stand ────────────────────

static const uint8_t CYCLE_MS = 20;
static const uint8_t SETTLED_CYCLES = 15;  // from when on nothing is told anew
static const uint8_t SHARE = 8;            // one in so many
static const uint8_t WATCH_PIECES = WATCH_PLACES - 1;
static uint8_t cycleMs, settled[WATCH_COUNT];
static Value lastTold[WATCH_COUNT];

// The whole number of its motor that a reading stands for, in 256ths; false: it says nothing, or what cannot be.
static bool standsAt(const Watch* at, uint8_t n, int32_t* place) {
  int16_t count;
  if (!readCount(pgm_read_byte(&at->pin), pgm_read_byte(&at->address), pgm_read_byte(&at->port), &count)) return false;
  const int32_t half = (int32_t)pgm_read_dword(&at->half), turn = (int32_t)pgm_read_dword(&at->turn);
  int32_t off = count - (int32_t)pgm_read_dword(&at->middle);
  if (turn) {
    while (off > turn / 2) off -= turn;
    while (off < -turn / 2) off += turn;
  }
  // A little beyond an end is the end; more than that is no place of the joint.
  if (off > half + half / 8 || off < -half - half / 8) return false;
  if (off > half) off = half;
  if (off < -half) off = -half;
  const float part = (float)(off + half) / (float)(2 * half) * WATCH_PIECES;
  uint8_t k = (uint8_t)part;
  if (k > WATCH_PIECES - 1) k = WATCH_PIECES - 1;
  const float from = (float)(int32_t)pgm_read_dword(&WATCHED[n][k]);
  const float to = (float)(int32_t)pgm_read_dword(&WATCHED[n][k + 1]);
  *place = (int32_t)((from + (to - from) * (part - (float)k)) * 256.0f);
  return true;
}
// One sensor a millisecond.
static void watchJoints() {
  if (++cycleMs >= CYCLE_MS) cycleMs = 0;
  const uint8_t n = cycleMs;
  if (n >= WATCH_COUNT) return;
  const Watch* at = &WATCHES[n];
  const uint8_t k = pgm_read_byte(&at->motor);
  int32_t place;
  if (!motors[k].isOn || motors[k].value != lastTold[n]) settled[n] = 0;
  else if (settled[n] < SETTLED_CYCLES) settled[n]++;
  else if (standsAt(at, n, &place)) {
    const int32_t most = (int32_t)pgm_read_dword(&at->most) * 256;
    int32_t next = corrections[k] + ((int32_t)motors[k].value * 256 - place) / SHARE;
    if (next > most) next = most;
    if (next < -most) next = -most;
    corrections[k] = next;
  }
  lastTold[n] = motors[k].value;
}
#endif
`;
