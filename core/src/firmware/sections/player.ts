/** The player of a table in flash: a routine as its motors are told it, frame by frame, without a computer. */
export const player = String.raw`
// ── Player: the routine as a table ──────────────────────────────────────────────────────────────────────────────────

enum State : uint8_t { WAITING, WAKING, GOING_THERE, PLAYING, STANDING };
static State state = WAITING;

// The table, read from its beginning to its end: where motors are in this frame and the next one.
static uint32_t readAt;
static long frame;        // number of the one in next
static uint8_t steady;    // frames that still go on as the last one did
static Value before[MOTOR_COUNT], next[MOTOR_COUNT], change[MOTOR_COUNT];
static uint32_t levels;   // of outputs, a bit each

static uint32_t readVar() {
  uint32_t value = 0;
  for (uint8_t shift = 0;; shift = (uint8_t)(shift + 7)) {
    const uint8_t byte = pgm_read_byte(&TABLE[readAt++]);
    value |= (uint32_t)(byte & 127) << shift;
    if (!(byte & 128)) return value;
  }
}
static int32_t readSigned() {
  const uint32_t value = readVar();
  return (int32_t)(value >> 1) ^ -(int32_t)(value & 1);
}
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
    steady = pgm_read_byte(&TABLE[readAt++]);
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
static void outputsSafe() {
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (pgm_read_byte(&SIGNALS[k].isOutput)) setPin(pgm_read_byte(&SIGNALS[k].pin), pgm_read_byte(&SIGNALS[k].level));
}
static const uint16_t FULL_PACE = 256;
static uint16_t pace;       // 256ths of a millisecond that go by in one
static bool isWanted;       // whether it is to go on
static uint32_t inFrame;    // 256ths of a millisecond since this frame
static uint16_t sinceMs;    // of the power-up
static uint8_t woken;
static Value from[MOTOR_COUNT];
static uint32_t goneThere;

static void say() {
  begin(PSTR("board 2 player"));
  number(CHANNEL_COUNT);
  number(BUFFER_BYTES);
  putWord(MADE_FOR);
  end();
}
static void off() {
  state = WAITING;
  isWanted = false;
  pace = 0;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motorOff(k);
  outputsSafe();
}
static void go() {
  if (isStopped()) return;
  isWanted = true;
  if (state != WAITING) return;
  state = WAKING;
  woken = 0;
  sinceMs = GAP_MS;
  rewind();
}
static void stop() { isWanted = false; }

// Motors that are sent speeds stop as time does.
static Value paced(uint8_t k, long value) {
  if (kindOf(k) != PULSE_PIN && kindOf(k) != PULSE_DRIVER) return (Value)value;
  if (!pgm_read_byte(&MOTORS[k].turns)) return (Value)value;
  const long still = (int32_t)pgm_read_dword(&MOTORS[k].rest);
  return (Value)(still + (value - still) * pace / FULL_PACE);
}
// Smoothly: 3s² − 2s³, at most half as fast again as evenly.
static void goThere() {
  goneThere += pace;
  const uint32_t all = (uint32_t)THERE_MS * FULL_PACE;
  const float part = goneThere >= all ? 1.0f : (float)goneThere / (float)all;
  const float smooth = part * part * (3.0f - 2.0f * part);
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    const float way = (float)((long)next[k] - from[k]) * smooth;
    motors[k].value = paced(k, from[k] + (long)(way < 0 ? way - 0.5f : way + 0.5f));
  }
  if (goneThere < all) return;
  state = PLAYING;
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
    if (AGAIN) {
      // The table begins where it ends: what is left of a way back is gone gently.
      for (uint8_t k = 0; k < MOTOR_COUNT; k++) from[k] = next[k];
      rewind();
      goneThere = 0;
      state = GOING_THERE;
    } else {
      state = STANDING;
      isWanted = false;
      pace = 0;
    }
    return;
  }
  const long all = (long)FRAME_MS * FULL_PACE;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    motors[k].value = paced(k, before[k] + share((long)next[k] - before[k], (long)inFrame, all));
}
static long waitedMs;
static void everyMs() {
  if (START_MS >= 0 && waitedMs <= START_MS && waitedMs++ == START_MS && state == WAITING) go();
  if (isStopped()) stop();
  // It begins, stops and goes on over a quarter of a second, along its way.
  if (isWanted && state > WAKING && pace < FULL_PACE) pace++;
  if (!isWanted && pace) pace--;
  switch (state) {
    case WAKING:
      if (++sinceMs < GAP_MS) break;
      sinceMs = 0;
      if (woken < MOTOR_COUNT) {
        const uint8_t k = pgm_read_byte(&POWER_ORDER[woken++]);
        from[k] = (Value)(int32_t)pgm_read_dword(&MOTORS[k].rest);
        motorOn(k, from[k]);
      } else {
        goneThere = 0;
        state = GOING_THERE;
      }
      break;
    case GOING_THERE:
      goThere();
      break;
    case PLAYING:
      play();
      break;
    default:
      break;
  }
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (motors[k].isOn) tell(k);
}

// Single letters: g go (on), s stop, o motors off, ? who are you.
static void listen() {
  while (Serial.available() > 0) {
    switch (Serial.read()) {
      case 'g':
        if (state == STANDING) {
          for (uint8_t k = 0; k < MOTOR_COUNT; k++) from[k] = motors[k].value;
          rewind();
          goneThere = 0;
          state = GOING_THERE;
        }
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
