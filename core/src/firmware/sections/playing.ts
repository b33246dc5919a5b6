/** What players share: power-up, the way to where a routine begins, going on and stopping along the way. */
export const playing = String.raw`
// ── Playing: how it comes on, begins, stops and goes on ─────────────────────────────────────────────────────────────

#include <math.h>

enum State : uint8_t { WAITING, WAKING, HOMING, GOING_THERE, PLAYING, STANDING };
static const uint32_t LEAST_THERE_MS = 500;
static State state = WAITING;

static const uint16_t FULL_PACE = 256;
static uint16_t pace;       // 256ths of a millisecond that go by in one
static bool isWanted;       // whether it is to go on
static uint16_t sinceMs;    // of the power-up
static uint8_t woken;
static Value from[MOTOR_COUNT];
static uint32_t goneThere, thereTime;
static uint8_t routine;     // of several

// What is played: where it begins, its beginning, and a millisecond of it.
static inline Value firstOf(uint8_t k);
static void rewind();
static void atFirst();
static void play();
#if USES_HOMING
// Joints find their places once, after their motors have come on.
static bool isHomed;
static void beginHoming();
static void home();
#endif

static void outputsSafe() {
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (pgm_read_byte(&SIGNALS[k].isOutput)) setPin(pgm_read_byte(&SIGNALS[k].pin), pgm_read_byte(&SIGNALS[k].level));
}
static void off() {
  state = WAITING;
  isWanted = false;
  pace = 0;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    motorOff(k);
    motors[k].value = (Value)(int32_t)pgm_read_dword(&MOTORS[k].rest);
  }
  outputsSafe();
#if USES_HOMING
  isHomed = false;
#endif
}
// Motors that are off come on where they were told to be last, or are expected to stand; then all go to where it begins.
static void wake() {
  state = WAKING;
  woken = 0;
  sinceMs = GAP_MS;
  rewind();
}
static void go() {
  if (isStopped()) return;
  isWanted = true;
  if (state == WAITING || state == STANDING) wake();
}
static void stop() { isWanted = false; }
static void done() {
  if (AGAIN && isWanted) {
    wake();
    return;
  }
  state = STANDING;
  isWanted = false;
  pace = 0;
}

// Motors that are sent speeds stop as time does.
static Value paced(uint8_t k, long value) {
  if (kindOf(k) != PULSE_PIN && kindOf(k) != PULSE_DRIVER) return (Value)value;
  if (!pgm_read_byte(&MOTORS[k].turns)) return (Value)value;
  const long still = (int32_t)pgm_read_dword(&MOTORS[k].rest);
  return (Value)(still + (value - still) * pace / FULL_PACE);
}
static inline long rounded(float value) { return (long)(value < 0 ? value - 0.5f : value + 0.5f); }

// To where it begins, gently from wherever that is: of 3s² − 2s³ the middle is half as fast again as evenly.
static void leave() {
#if USES_HOMING
  if (!isHomed) {
    beginHoming();
    return;
  }
#endif
  thereTime = LEAST_THERE_MS;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    const int32_t gently = (int32_t)pgm_read_dword(&GENTLE_PER_S[k]);
    if (!gently) continue;
    const float far = fabsf((float)((long)firstOf(k) - from[k]));
    const float ms = 1500.0f * far / (float)gently;
    if (ms > (float)thereTime) thereTime = ms > 60000.0f ? 60000 : (uint32_t)ms;
  }
  thereTime *= FULL_PACE;
  goneThere = 0;
  state = GOING_THERE;
}
// One motor after the other.
static void wakeNext() {
  while (woken < MOTOR_COUNT) {
    const uint8_t k = pgm_read_byte(&POWER_ORDER[woken]);
    from[k] = motors[k].value;
    if (!motors[k].isOn) break;
    woken++;
  }
  if (++sinceMs < GAP_MS) return;
  sinceMs = 0;
  if (woken < MOTOR_COUNT) {
    const uint8_t k = pgm_read_byte(&POWER_ORDER[woken++]);
    motorOn(k, from[k]);
  } else
    leave();
}
static void goThere() {
  goneThere += pace;
  const float part = goneThere >= thereTime ? 1.0f : (float)goneThere / (float)thereTime;
  const float smooth = part * part * (3.0f - 2.0f * part);
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    motors[k].value = paced(k, from[k] + rounded((float)((long)firstOf(k) - from[k]) * smooth));
  if (goneThere < thereTime) return;
  state = PLAYING;
  atFirst();
}

static long waitedMs;
// What was held as power came starts nothing.
static bool wasFree[START_COUNT + 1];
static void choose(uint8_t which) {
  if (which == routine) go();
  else if (state == WAITING || state == STANDING) {
    routine = which;
    go();
  }
}
static void lookAtStarts() {
  for (uint8_t n = 0; n != START_COUNT; n++) {
    const bool isAsked = isOn(pgm_read_byte(&STARTS[n].signal));
    if (isAsked && wasFree[n]) {
      const uint8_t which = pgm_read_byte(&STARTS[n].routine);
      choose(which == LAST_CHOSEN ? routine : which);
    }
    wasFree[n] = !isAsked;
  }
}
static void everyMs() {
  if (START_MS >= 0 && waitedMs <= START_MS && waitedMs++ == START_MS && state == WAITING) go();
  lookAtStarts();
  if (isStopped()) stop();
  // It begins, stops and goes on over a quarter of a second, along its way.
  if (isWanted && state > WAKING && pace < FULL_PACE) pace++;
  if (!isWanted && pace) pace--;
  if (state == WAKING) wakeNext();
#if USES_HOMING
  else if (state == HOMING) home();
#endif
  else if (state == GOING_THERE) goThere();
  else if (state == PLAYING) play();
#if USES_WATCH
  if (state >= PLAYING) watchJoints();
#endif
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (motors[k].isOn) tell(k);
}

static void say() { introduce(PSTR("player")); }
// Single letters: g go (on), s stop, o motors off, ? who are you; 1 to 9 a routine, where there are several.
static void listen() {
  while (Serial.available() > 0) {
    const int letter = Serial.read();
    switch (letter) {
      case 'g':
        go();
        break;
      case 's':
        stop();
        break;
      case 'o':
        if (!pace) off();
        break;
      case '?':
        say();
        break;
      default:
        if (letter >= '1' && letter < '1' + ROUTINE_COUNT) choose((uint8_t)(letter - '1'));
        break;
    }
  }
}

void setup() {
  beginPins();
  beginInputs();
  Serial.begin(BAUD);
  say();
  begun();
}
`;
