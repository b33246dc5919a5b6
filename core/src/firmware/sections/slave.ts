/** Types that stand in the heads of functions: before the first of them, since platforms declare functions there by themselves. */
export const slaveTypes = String.raw`
// Why a register is not written, as the protocol numbers it.
enum Why : uint8_t { FINE = 0, NO_FUNCTION = 1, NO_REGISTER = 2, NO_VALUE = 3, NOT_NOW = 4 };
`;

/** A slave of an operator panel: its registers over a two-wire serial line (Modbus RTU, an open protocol). */
export const slave = String.raw`
// ── Registers for an operator panel ─────────────────────────────────────────────────────────────────────────────────

enum State : uint8_t { WAITING, WAKING, FOLLOWING, HOLDING };
static State state = WAITING;

static int16_t targets[JOINT_COUNT];  // tenths
static uint8_t preset;                // that is gone to, from 1; 0: none
static uint16_t sinceMs;
static uint8_t woken;

// The place of a joint's motor at so many tenths, in 256ths: between the places of its table.
static int32_t placeOf(uint8_t n, int16_t tenths) {
  const int32_t low = (int32_t)pgm_read_dword(&GOERS[n].low), high = (int32_t)pgm_read_dword(&GOERS[n].high);
  float part = (float)(tenths - low) / (float)(high - low) * (GOER_PLACES - 1);
  if (part < 0.0f) part = 0.0f;
  if (part > GOER_PLACES - 1) part = GOER_PLACES - 1;
  uint8_t k = (uint8_t)part;
  if (k > GOER_PLACES - 2) k = GOER_PLACES - 2;
  const float from = (float)(int32_t)pgm_read_dword(&PLACES[n][k]);
  const float to = (float)(int32_t)pgm_read_dword(&PLACES[n][k + 1]);
  return (int32_t)((from + (to - from) * (part - (float)k)) * 256.0f);
}
// And back: where a motor's place has its joint.
static int16_t tenthsOf(uint8_t n, int32_t place) {
  const float low = (float)(int32_t)pgm_read_dword(&GOERS[n].low), high = (float)(int32_t)pgm_read_dword(&GOERS[n].high);
  const float at = (float)place / 256.0f;
  const bool rises = (int32_t)pgm_read_dword(&PLACES[n][GOER_PLACES - 1]) > (int32_t)pgm_read_dword(&PLACES[n][0]);
  for (uint8_t k = 0; k < GOER_PLACES - 1; k++) {
    const float from = (float)(int32_t)pgm_read_dword(&PLACES[n][k]);
    const float to = (float)(int32_t)pgm_read_dword(&PLACES[n][k + 1]);
    const bool isIn = rises ? at <= to : at >= to;
    if (!isIn && k < GOER_PLACES - 2) continue;
    float part = to == from ? 0.0f : (at - from) / (to - from);
    if (part < 0.0f) part = 0.0f;
    if (part > 1.0f) part = 1.0f;
    const float tenths = low + ((float)k + part) * (high - low) / (GOER_PLACES - 1);
    return (int16_t)(tenths < 0 ? tenths - 0.5f : tenths + 0.5f);
  }
  return 0;
}
static uint8_t jointOf(uint8_t n) { return pgm_read_byte(&GOERS[n].joint); }
static uint8_t moved(uint8_t n) { return pgm_read_byte(&GOERS[n].motor); }
// Where a joint is told to be by now: by its first motor.
static int16_t nowOf(uint8_t joint) {
  for (uint8_t n = 0; n < GOER_COUNT; n++)
    if (jointOf(n) == joint) return tenthsOf(n, places[moved(n)]);
  return 0;
}
static void aimAt(uint8_t joint, int16_t tenths) {
  targets[joint] = tenths;
  preset = 0;
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    if (jointOf(n) != joint) continue;
    goals[moved(n)] = placeOf(n, tenths);
  }
}
static void choose(uint8_t n) {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) goals[k] = (int32_t)pgm_read_dword(&PRESETS[n - 1][k]) * 256;
  for (uint8_t k = 0; k < GOER_COUNT; k++) targets[jointOf(k)] = tenthsOf(k, goals[moved(k)]);
  preset = n;
}
static void atRest() {
  for (uint8_t n = 0; n < GOER_COUNT; n++) targets[jointOf(n)] = (int16_t)(int32_t)pgm_read_dword(&GOERS[n].rest);
  preset = 0;
}
static void on() {
  if (state == HOLDING) {
    state = FOLLOWING;
  }
  if (state != WAITING) return;
  state = WAKING;
  woken = 0;
  sinceMs = GAP_MS;
}
static void hold() {
  if (state != FOLLOWING) return;
  state = HOLDING;
  slowDown();
  for (uint8_t n = 0; n < GOER_COUNT; n++) targets[jointOf(n)] = tenthsOf(n, goals[moved(n)]);
  preset = 0;
}
static void off() {
  state = WAITING;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motorOff(k);
  atRest();
}
static void everyMs() {
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
      for (uint8_t n = 0; n < GOER_COUNT; n++) goals[moved(n)] = placeOf(n, targets[jointOf(n)]);
    }
  }
  if (state >= FOLLOWING) move();
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (motors[k].isOn) tell(k);
}

// Registers. What is read of those that do something when written is 0.
static const uint16_t STATE = 0, COMMAND = 1, PRESET = 2, SHARE = 3, STOPPED = 4, MADE = 5, MIRROR = 8, TARGET = 10, NOW = 40, NUDGE = 70;

// Whether a joint's mirror image goes with it.
static bool mirrors;

static bool readRegister(uint16_t where, uint16_t* value) {
  *value = 0;
  switch (where) {
    case STATE:
      *value = state;
      return true;
    case COMMAND:
      return true;
    case PRESET:
      *value = preset;
      return true;
    case SHARE:
      *value = sharePercent;
      return true;
    case MADE:
      *value = REVISION;
      return true;
    case MADE + 1:
      *value = (uint16_t)(FINGERPRINT >> 16);
      return true;
    case MADE + 2:
      *value = (uint16_t)(FINGERPRINT & 0xffff);
      return true;
    case STOPPED:
      *value = isStopped();
      return true;
    case MIRROR:
      *value = mirrors;
      return true;
    default:
      break;
  }
  if (where >= TARGET && where < TARGET + JOINT_COUNT) *value = (uint16_t)targets[where - TARGET];
  else if (where >= NOW && where < NOW + JOINT_COUNT) *value = (uint16_t)nowOf((uint8_t)(where - NOW));
  else if (where < NUDGE || where >= NUDGE + JOINT_COUNT) return false;
  return true;
}
static bool isInside(uint8_t joint, long wished) {
  for (uint8_t n = 0; n < GOER_COUNT; n++)
    if (jointOf(n) == joint && (wished < (int32_t)pgm_read_dword(&GOERS[n].low) || wished > (int32_t)pgm_read_dword(&GOERS[n].high))) return false;
  return true;
}
// Whether it may be written, and, where it is to be, does so.
static Why writeRegister(uint16_t where, uint16_t value, bool isMeant) {
  const int16_t tenths = (int16_t)value;
  if (where == COMMAND) {
    if (value < 1 || value > 3) return NO_VALUE;
    if (value == 1 && isStopped()) return NOT_NOW;
    if (!isMeant) return FINE;
    if (value == 1) on();
    if (value == 2) hold();
    if (value == 3) off();
    return FINE;
  }
  if (where == SHARE) {
    if (value < 1 || value > 100) return NO_VALUE;
    if (isMeant) sharePercent = (uint8_t)value;
    return FINE;
  }
  if (where == MIRROR) {
    if (value > (HAS_TWINS ? 1 : 0)) return NO_VALUE;
    if (isMeant) mirrors = value;
    return FINE;
  }
  if (where == PRESET) {
    if (value < 1 || value > PRESET_COUNT) return NO_VALUE;
    if (state != FOLLOWING) return NOT_NOW;
    if (isMeant) choose((uint8_t)value);
    return FINE;
  }
  const bool isNudge = where >= NUDGE && where < NUDGE + JOINT_COUNT;
  if (!isNudge && (where < TARGET || where >= TARGET + JOINT_COUNT)) return NO_REGISTER;
  const uint8_t joint = (uint8_t)(where - (isNudge ? NUDGE : TARGET));
  // What its mirror image is told too.
  const uint8_t twin = mirrors ? pgm_read_byte(&TWINS[joint]) : NO_PIN;
  const long wished = isNudge ? (long)targets[joint] + tenths : tenths;
  const long mirrored = isNudge && twin != NO_PIN ? (long)targets[twin] + tenths : tenths;
  if (!isInside(joint, wished) || (twin != NO_PIN && !isInside(twin, mirrored))) return NO_VALUE;
  if (state != FOLLOWING) return NOT_NOW;
  if (!isMeant) return FINE;
  aimAt(joint, (int16_t)wished);
  if (twin != NO_PIN) aimAt(twin, (int16_t)mirrored);
  return FINE;
}

static const uint8_t MOST_REGISTERS = 32;
static uint8_t frame[9 + 2 * MOST_REGISTERS];
static uint8_t frameLength;
static bool frameTooLong;
static uint32_t lastByte;

static uint16_t checkOf(const uint8_t* bytes, uint8_t count) {
  uint16_t crc = 0xffff;
  for (uint8_t n = 0; n < count; n++) {
    crc ^= bytes[n];
    for (uint8_t bit = 0; bit < 8; bit++) crc = (uint16_t)(crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1);
  }
  return crc;
}
static void answer(uint8_t* bytes, uint8_t count) {
  const uint16_t crc = checkOf(bytes, count);
  bytes[count] = (uint8_t)(crc & 255);
  bytes[count + 1] = (uint8_t)(crc >> 8);
  if (goingCount + count + 2 > OUT_BYTES) return;
  for (uint8_t n = 0; n < count + 2; n++) going[(goingFrom + goingCount++) % OUT_BYTES] = (char)bytes[n];
}
static uint16_t wordAt(uint8_t n) { return (uint16_t)(frame[n] << 8 | frame[n + 1]); }
// A frame has ended: one for this station, or for all (0, which nobody answers).
static void hearFrame() {
  if (frameLength < 8 || checkOf(frame, (uint8_t)(frameLength - 2)) != (uint16_t)(frame[frameLength - 1] << 8 | frame[frameLength - 2])) return;
  if (frame[0] != STATION && frame[0] != 0) return;
  const bool isForAll = frame[0] == 0;
  static uint8_t reply[5 + 2 * MOST_REGISTERS];
  reply[0] = STATION;
  reply[1] = frame[1];
  uint8_t length = 0;
  Why why = FINE;
  const uint16_t where = wordAt(2), second = wordAt(4);
  if (frame[1] == 3 && frameLength == 8) {
    if (second < 1 || second > MOST_REGISTERS) why = NO_VALUE;
    for (uint16_t n = 0; why == FINE && n < second; n++) {
      uint16_t value;
      if (!readRegister((uint16_t)(where + n), &value)) why = NO_REGISTER;
      reply[3 + 2 * n] = (uint8_t)(value >> 8);
      reply[4 + 2 * n] = (uint8_t)(value & 255);
    }
    reply[2] = (uint8_t)(2 * second);
    length = (uint8_t)(3 + 2 * second);
  } else if (frame[1] == 6 && frameLength == 8) {
    why = writeRegister(where, second, true);
    for (uint8_t n = 2; n < 6; n++) reply[n] = frame[n];
    length = 6;
  } else if (frame[1] == 16) {
    if (second < 1 || second > MOST_REGISTERS || frame[6] != 2 * second || frameLength != 9 + 2 * second) why = NO_VALUE;
    // All of them or none.
    for (uint8_t turn = 0; turn < 2; turn++)
      for (uint8_t n = 0; why == FINE && n < second; n++) why = writeRegister((uint16_t)(where + n), wordAt((uint8_t)(7 + 2 * n)), turn == 1);
    for (uint8_t n = 2; n < 6; n++) reply[n] = frame[n];
    length = 6;
  } else
    why = NO_FUNCTION;
  if (why != FINE) {
    reply[1] = (uint8_t)(frame[1] | 0x80);
    reply[2] = why;
    length = 3;
  }
  if (!isForAll) answer(reply, length);
}
static void listen() {
  while (Serial.available() > 0) {
    const uint8_t byte = (uint8_t)Serial.read();
    if (frameLength < sizeof frame) frame[frameLength++] = byte;
    else frameTooLong = true;
    lastByte = micros();
  }
  // A frame ends with a silence of three and a half characters; 1.75 ms are enough for any that is fast.
  if (!frameLength || micros() - lastByte < SILENCE_MICROS) return;
  if (!frameTooLong) hearFrame();
  frameLength = 0;
  frameTooLong = false;
}

void setup() {
  beginPins();
  beginInputs();
  atRest();
  sharePercent = 20;
  Serial.begin(BAUD);
  begun();
}
`;
