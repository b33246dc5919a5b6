/** Motors with an encoder, of generated firmware: how far they went is counted, and a loop brings them to where they are told to be. */
export const counted = String.raw`
// ── Motors with an encoder: their tracks are counted by the timer's tick, and once a millisecond their duty is set anew ──

struct Counted {
  FastPin first, second;  // its tracks
  uint8_t was;            // both of them, at the last tick
  bool isLost;            // it did not follow
  int16_t duty;           // −255 to 255
  uint16_t fullMs;        // so long at full duty
  int32_t at;             // counts: where it is
  int32_t fullFrom;       // where it was as it came to full duty
  int32_t told, pace;     // where it was told to be, and how fast that goes (256ths a millisecond, smoothed)
  int32_t sum;            // of its errors: 256ths of duty, for a millisecond
};
static Counted counted[COUNTED_COUNT];
// Which of them a motor is.
static uint8_t countedOf[MOTOR_COUNT];
static const int16_t FULL_DUTY = 255;
// Longest that a motor may be at full duty without going on; errors beyond so many counts are as bad as that; an error that lasts for
// so long is answered twice over.
static const uint16_t STUCK_MS = 500;
static const int32_t MOST_OFF = 20000;
static const int32_t SUM_MS = 400;

// By how much it went, by its tracks before and now: 00, 10, 11, 01 is upwards. Of two changes at once nobody can tell.
static const int8_t WENT[16] = {0, -1, 1, 0, 1, 0, 0, -1, -1, 0, 0, 1, 0, 1, -1, 0};
static inline void countTracks() {
  for (Counted* each = counted; each != counted + COUNTED_COUNT; each++) {
    const uint8_t is = (uint8_t)(readFast(&each->first) << 1 | readFast(&each->second));
    if (is == each->was) continue;
    each->at += WENT[each->was << 2 | is];
    each->was = is;
  }
}
static inline int32_t countedAt(uint8_t k) {
  noInterrupts();
  const int32_t at = counted[countedOf[k]].at;
  interrupts();
  return at;
}
// Not at the one level and the other way at once.
static inline void setTurning(uint8_t k, int16_t duty) {
  Counted& each = counted[countedOf[k]];
  if (duty == each.duty) return;
  if ((duty < 0) != (each.duty < 0)) {
    setDuty(pinOf(k), 0);
    setPin(secondOf(k), duty >= 0);
  }
  each.duty = duty;
  setDuty(pinOf(k), (uint8_t)(duty < 0 ? -duty : duty));
}
static inline void beginTracks(uint8_t k, uint8_t n) {
  countedOf[k] = n;
  const uint8_t first = pgm_read_byte(&COUNTERS[n].first), second = pgm_read_byte(&COUNTERS[n].second);
  pinMode(first, INPUT_PULLUP);
  pinMode(second, INPUT_PULLUP);
  counted[n].first = fastInput(first);
  counted[n].second = fastInput(second);
  counted[n].was = (uint8_t)(readFast(&counted[n].first) << 1 | readFast(&counted[n].second));
}
// Where it was told to be is called this; how far it is off stays.
static inline void recount(uint8_t k, long value) {
  Counted& each = counted[countedOf[k]];
  noInterrupts();
  each.at += value - each.told;
  interrupts();
  each.told = value;
}
// Counts from here; it stands there and is told to.
static inline void beginCounted(uint8_t k, long value) {
  Counted& each = counted[countedOf[k]];
  noInterrupts();
  each.at = value;
  interrupts();
  each.told = value;
  each.pace = each.sum = 0;
  each.fullMs = 0;
  each.isLost = false;
}
// At full duty it goes on: not backwards by what it does in 50 ms (tracks or leads are the wrong way round), and not standing for long.
static inline bool follows(Counted* each, int32_t at, int32_t slip) {
  if (each->duty != FULL_DUTY && each->duty != -FULL_DUTY) {
    each->fullMs = 0;
    return true;
  }
  if (each->fullMs == 0) each->fullFrom = at;
  const int32_t went = each->duty > 0 ? at - each->fullFrom : each->fullFrom - at;
  if (went < -slip) return false;
  if (++each->fullMs < STUCK_MS) return true;
  each->fullMs = 0;
  return went >= slip;
}
// Duty by how fast it is to go, by how far it is off, and by how long it has been.
static inline bool follow(uint8_t k, long told) {
  Counted& each = counted[countedOf[k]];
  const uint8_t n = countedOf[k];
  const int32_t perCount = (int32_t)pgm_read_dword(&COUNTERS[n].perCount);
  const int32_t perPace = (int32_t)pgm_read_dword(&COUNTERS[n].perPace);
  const int32_t at = countedAt(k);
  each.pace += (((told - each.told) << 8) - each.pace) / 8;
  each.told = told;
  int32_t off = told - at;
  off = off > MOST_OFF ? MOST_OFF : off < -MOST_OFF ? -MOST_OFF : off;
  const int32_t wish = (perCount * off + (perPace >> 4) * each.pace / 16 + each.sum / SUM_MS) / 256;
  const bool isFull = wish > FULL_DUTY || wish < -FULL_DUTY;
  if (!isFull) each.sum += perCount * off;
  setTurning(k, (int16_t)(wish > FULL_DUTY ? FULL_DUTY : wish < -FULL_DUTY ? -FULL_DUTY : wish));
  return follows(&each, at, (int32_t)pgm_read_dword(&COUNTERS[n].slip));
}
static inline bool isAnyLost() {
  for (uint8_t n = 0; n < COUNTED_COUNT; n++)
    if (counted[n].isLost) return true;
  return false;
}
`;
