/** Hand control: motors follow knobs, and go to kept poses, without a computer. */
export const hand = String.raw`
// ── Hand control ────────────────────────────────────────────────────────────────────────────────────────────────────

enum State : uint8_t { WAITING, WAKING, FOLLOWING, HOLDING };
static State state = WAITING;

static const uint8_t NONE = 255;
static const uint8_t FINE = 6;       // a reading is kept in 64ths of a count

static int32_t readings[SENSOR_COUNT + 1];  // smoothed
static bool isRead[SENSOR_COUNT + 1];
static uint8_t nextSensor;
// A kept pose that is gone to; a knob takes over again once it has been turned.
static uint8_t preset = NONE;
static int32_t whenChosen[SENSOR_COUNT + 1];
static bool isLed[KNOB_COUNT + 1];

static void say() {
  begin(PSTR("board 2 hand"));
  number(CHANNEL_COUNT);
  number(BUFFER_BYTES);
  putWord(MADE_FOR);
  end();
}

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

static void choose(uint8_t n) {
  if (state != FOLLOWING || n >= PRESET_COUNT) return;
  preset = n;
  for (uint8_t k = 0; k < SENSOR_COUNT + 1; k++) whenChosen[k] = readings[k];
  for (uint8_t k = 0; k < KNOB_COUNT + 1; k++) isLed[k] = false;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    goals[k] = (int32_t)pgm_read_dword(&PRESETS[n][k]) * 256;
    caughtUp[k] = false;
  }
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
      isLed[n] = true;
      caughtUp[pgm_read_byte(&KNOBS[n].motor)] = false;
    }
    goals[pgm_read_byte(&KNOBS[n].motor)] = placeOf(n);
  }
}
static uint16_t sinceMs;
static uint8_t woken;
static void go() {
  if (isStopped()) return;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) caughtUp[k] = false;
  if (state == HOLDING) state = FOLLOWING;
  if (state != WAITING) return;
  state = WAKING;
  woken = 0;
  sinceMs = GAP_MS;
}
static void hold() {
  if (state != FOLLOWING) return;
  state = HOLDING;
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
      for (uint8_t n = 0; n < KNOB_COUNT + 1; n++) isLed[n] = true;
    }
  }
  if (state == FOLLOWING) takeOver();
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
