/** What knobs and sticks read. */
export const handSensors = String.raw`
// ── Knobs and sticks ────────────────────────────────────────────────────────────────────────────────────────────────

static const uint8_t FINE = 6;       // a reading is kept in 64ths of a count

static int32_t readings[SENSOR_COUNT + 1];  // smoothed
static bool isRead[SENSOR_COUNT + 1];
static uint8_t nextSensor;

// One sensor a millisecond, each smoothed over about sixteen of its readings; the first reading counts as it is.
static void readSensors() {
  if (SENSOR_COUNT == 0) return;
  nextSensor = (uint8_t)((nextSensor + 1) % (SENSOR_COUNT ? SENSOR_COUNT : 1));
  const Sensor* at = &SENSORS[nextSensor];
  int16_t count;
  // A sensor that says nothing is where it was.
  if (!readCount(pgm_read_byte(&at->pin), pgm_read_byte(&at->address), pgm_read_byte(&at->port), &count)) return;
  const int32_t now = (int32_t)count * (1 << FINE);
  int32_t& kept = readings[nextSensor];
  kept = isRead[nextSensor] ? kept + (now - kept) / 16 : now;
  isRead[nextSensor] = true;
}
`;

/** Hand control: motors follow knobs, and go to kept poses, without a computer. */
export const hand = String.raw`
// ── Hand control ────────────────────────────────────────────────────────────────────────────────────────────────────

enum State : uint8_t { WAITING, WAKING, FOLLOWING, HOLDING };
static State state = WAITING;

static const uint8_t NONE = 255;
// A kept pose that is gone to; a knob takes over again once it has been turned.
static uint8_t preset = NONE;
static int32_t whenChosen[SENSOR_COUNT + 1];
static bool isLed[KNOB_COUNT + 1];
// By change: where the motor was as its knob took over, and what the knob's own place was then. By speed: what is left of a whole number.
static int32_t ledFrom[KNOB_COUNT + 1], turnedFrom[KNOB_COUNT + 1];
static float pushed[KNOB_COUNT + 1];

static void say() { introduce(PSTR("hand")); }

// The place of a knob's motor by the reading, in 256ths: between the places of its table.
static int32_t placeOf(uint8_t n) {
  const int32_t low = (int32_t)((uint32_t)pgm_read_dword(&KNOBS[n].low) << FINE);
  const int32_t high = (int32_t)((uint32_t)pgm_read_dword(&KNOBS[n].high) << FINE);
  int32_t at = readings[pgm_read_byte(&KNOBS[n].sensor)];
  if (at < low) at = low;
  if (at > high) at = high;
  const float part = (float)(at - low) / (float)(high - low) * (KNOB_PLACES - 1);
  uint8_t k = (uint8_t)part;
  if (k > KNOB_PLACES - 2) k = KNOB_PLACES - 2;
  const float from = (float)(int32_t)pgm_read_dword(&PLACES[n][k]);
  const float to = (float)(int32_t)pgm_read_dword(&PLACES[n][k + 1]);
  return (int32_t)((from + (to - from) * (part - (float)k)) * 256.0f);
}

// A goal stays between the ends of the knob's table.
static int32_t withinTable(uint8_t n, int32_t goal) {
  int32_t low = (int32_t)pgm_read_dword(&PLACES[n][0]) * 256;
  int32_t high = (int32_t)pgm_read_dword(&PLACES[n][KNOB_PLACES - 1]) * 256;
  if (low > high) {
    const int32_t other = low;
    low = high;
    high = other;
  }
  return goal < low ? low : goal > high ? high : goal;
}
static void lead(uint8_t n) {
  const uint8_t k = pgm_read_byte(&KNOBS[n].motor);
  isLed[n] = true;
  caughtUp[k] = false;
  ledFrom[n] = places[k];
  turnedFrom[n] = placeOf(n);
  pushed[n] = 0.0f;
}
// Off the middle by a twentieth of its range it stands still; from there on it is faster, up to the motor's speed, the way its table goes.
static const float DEAD = 0.05f;
static void push(uint8_t n) {
  const uint8_t k = pgm_read_byte(&KNOBS[n].motor);
  const float low = (float)((int32_t)pgm_read_dword(&KNOBS[n].low) * (1 << FINE));
  const float high = (float)((int32_t)pgm_read_dword(&KNOBS[n].high) * (1 << FINE));
  float off = ((float)readings[pgm_read_byte(&KNOBS[n].sensor)] - (low + high) / 2.0f) / (high - low) * 2.0f;
  if (off > 1.0f) off = 1.0f;
  if (off < -1.0f) off = -1.0f;
  const float beyond = fabsf(off) - 2.0f * DEAD;
  if (beyond <= 0.0f) return;
  const bool rises = (int32_t)pgm_read_dword(&PLACES[n][KNOB_PLACES - 1]) > (int32_t)pgm_read_dword(&PLACES[n][0]);
  const float perS = perMs((int32_t)pgm_read_dword(&SPEEDS[k].perS)) * beyond / (1.0f - 2.0f * DEAD);
  pushed[n] += (off > 0.0f) == rises ? perS : -perS;
  const int32_t whole = (int32_t)pushed[n];
  pushed[n] -= (float)whole;
  // It leads by what the motor is away from standing there, no further.
  const int32_t next = withinTable(n, goals[k] + whole);
  const int32_t most = (int32_t)(perMs((int32_t)pgm_read_dword(&SPEEDS[k].perS)) * RAMP_MS);
  if (next - places[k] < most && places[k] - next < most) goals[k] = next;
}

static void choose(uint8_t n) {
  if (state != FOLLOWING || n >= PRESET_COUNT) return;
  preset = n;
  for (uint8_t k = 0; k < SENSOR_COUNT + 1; k++) whenChosen[k] = readings[k];
  for (uint8_t k = 0; k < KNOB_COUNT + 1; k++) isLed[k] = false;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    goals[k] = (int32_t)pgm_read_dword(&PRESETS[n][k]) * 256;
    caughtUp[k] = false;
  }
#if USES_STEERING
  steerFrom((uint8_t)(n + 1));
#endif
}
// A knob that has been turned since a kept pose was chosen leads again, gently until it is caught up with.
static void takeOver() {
  for (uint8_t n = 0; n != KNOB_COUNT; n++) {
    const uint8_t sensor = pgm_read_byte(&KNOBS[n].sensor);
    if (!isLed[n]) {
      const int32_t range = (int32_t)pgm_read_dword(&KNOBS[n].high) - (int32_t)pgm_read_dword(&KNOBS[n].low);
      int32_t turned = readings[sensor] - whenChosen[sensor];
      if (turned < 0) turned = -turned;
      if (turned < (range * (1 << FINE)) / 32) continue;
      lead(n);
    }
    const uint8_t k = pgm_read_byte(&KNOBS[n].motor);
    if (FOLLOWING_BY == BY_PLACE) goals[k] = placeOf(n);
    else if (FOLLOWING_BY == BY_CHANGE) goals[k] = withinTable(n, ledFrom[n] + placeOf(n) - turnedFrom[n]);
    else push(n);
  }
}
// Buttons choose kept poses, once each has been on for a while.
static const uint8_t STEADY_MS = 20;
static uint8_t onMs[BUTTON_COUNT + 1];
static void pressed() {
  for (uint8_t n = 0; n != BUTTON_COUNT; n++) {
    if (!isOn(pgm_read_byte(&BUTTONS[n]))) onMs[n] = 0;
    else if (onMs[n] < STEADY_MS && ++onMs[n] == STEADY_MS) choose(n);
  }
}
static uint16_t sinceMs;
static uint8_t woken;
static void go() {
  if (isStopped()) return;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) caughtUp[k] = false;
  if (state == HOLDING) {
    state = FOLLOWING;
#if USES_STEERING
    steerOn();
#endif
    if (FOLLOWING_BY != BY_PLACE)
      for (uint8_t n = 0; n != KNOB_COUNT; n++) lead(n);
  }
  if (state != WAITING) return;
  state = WAKING;
  woken = 0;
  sinceMs = GAP_MS;
}
static void hold() {
  if (state != FOLLOWING) return;
  state = HOLDING;
#if USES_STEERING
  isSteering = false;
#endif
  slowDown();
}
static void off() {
  state = WAITING;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motorOff(k);
}
static long waitedMs;
static void everyMs() {
  if (START_MS >= 0 && waitedMs <= START_MS && waitedMs++ == START_MS && state == WAITING) go();
  readSensors();
  if (isStopped()) hold();
  if (state == WAKING && ++sinceMs >= GAP_MS) {
    sinceMs = 0;
    if (woken < MOTOR_COUNT) {
      const uint8_t k = pgm_read_byte(&POWER_ORDER[woken++]);
      const int32_t rest = (int32_t)pgm_read_dword(&MOTORS[k].rest);
      standAt(k, rest * 256);
      motorOn(k, (Value)rest);
    } else {
      state = FOLLOWING;
      preset = NONE;
      for (uint8_t n = 0; n != KNOB_COUNT; n++) lead(n);
#if USES_STEERING
      steerFrom(0);
#endif
    }
  }
  pressed();
  if (state == FOLLOWING) takeOver();
#if USES_STEERING
  learnMiddles();
  if (state == FOLLOWING) steer();
#endif
  if (state >= FOLLOWING) move();
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (motors[k].isOn) tell(k);
}

// Single letters: g go (on), s hold, o motors off, 1 to 9 a kept pose, ? who are you.
static void listen() {
  while (Serial.available() > 0) {
    const int letter = Serial.read();
    if (letter == 'g') go();
    if (letter == 's') hold();
    if (letter == 'o') off();
    if (letter >= '1' && letter <= '9') choose((uint8_t)(letter - '1'));
    if (letter == '?') say();
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
