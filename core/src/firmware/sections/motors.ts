/** Motors of generated firmware, all with one shape: on at a value, told a value, off. */
export const motors = String.raw`
// ── Motors: on at a value, told a value, off ────────────────────────────────────────────────────────────────────────

// a·b / c, rounded halves up, for 0 <= b <= c; nothing overflows.
static inline long share(long a, long b, long c) {
  if (a == 0) return 0;
  // One division is enough for what motors do within a point or a frame.
  if (a > -30000 && a < 30000 && c < 30000) {
    const long twice = a * b * 2 + c;
    return twice >= 0 ? twice / (2 * c) : -((2 * c - 1 - twice) / (2 * c));
  }
  const long whole = a / c * b;
  const long rest = a % c * b * 2 + c;
  return whole + (rest >= 0 ? rest / (2 * c) : -((2 * c - 1 - rest) / (2 * c)));
}

struct MotorState {
  bool isOn;
  Value value;  // what it is told by now
};
static MotorState motors[MOTOR_COUNT];

static inline uint8_t kindOf(uint8_t k) { return pgm_read_byte(&MOTORS[k].kind); }
static inline uint8_t pinOf(uint8_t k) { return pgm_read_byte(&MOTORS[k].pin); }
static inline uint8_t secondOf(uint8_t k) { return pgm_read_byte(&MOTORS[k].second); }
static inline long lowOf(uint8_t k) { return (int32_t)pgm_read_dword(&MOTORS[k].low); }
static inline long highOf(uint8_t k) { return (int32_t)pgm_read_dword(&MOTORS[k].high); }
// What counts its way is anywhere until it is told where it is.
static inline bool counts(uint8_t k) { return kindOf(k) == STEPPER || kindOf(k) == COUNTED; }

#if USES_HOMING
// What counts is anywhere before it has found its place.
static bool isHoming;
#endif
static inline long clamped(uint8_t k, long value) {
#if USES_HOMING
  if (isHoming && counts(k)) return value;
#endif
  return value < lowOf(k) ? lowOf(k) : value > highOf(k) ? highOf(k) : value;
}
#if USES_WATCH
static int32_t corrections[MOTOR_COUNT];  // of what joints stand off, in 256ths
#endif
// What goes out for what it is told; whatever that is, it stays inside the motor's own range.
static inline long outOf(uint8_t k) {
#if USES_WATCH
  return clamped(k, motors[k].value + ((corrections[k] + 128) >> 8));
#else
  return clamped(k, motors[k].value);
#endif
}

#if USES_PULSE_PINS
static Servo servos[MOTOR_COUNT];
#endif

`;

/** What follows it, with the counted motors between. */
export const motorShape = String.raw`
#if USES_STEPS
struct Axis {
  uint8_t left;   // microsteps of this millisecond that are still to go
  uint8_t rate;   // all of them
  uint8_t share;  // how much of the next one has come together, of TICKS_PER_MS
  bool wanted, forward;  // which way they go, and which way the direction says
  int32_t at;      // microsteps that have gone out
  FastPin step, direction;
};
static Axis axes[STEP_COUNT];
// Which axis a motor is.
static uint8_t axisOf[MOTOR_COUNT];

// The microsteps of a millisecond are spread evenly over its ticks. A direction is set one tick before the first step that goes
// that way. Quick: it has to be done twenty times a millisecond.
static inline void stepAxes() {
  for (Axis* axis = axes; axis != axes + STEP_COUNT; axis++) {
    if (!axis->left) continue;
    const uint8_t share = (uint8_t)(axis->share + axis->rate);
    if (share < TICKS_PER_MS) {
      axis->share = share;
      continue;
    }
    if (axis->wanted != axis->forward) {
      axis->forward = axis->wanted;
      setFast(&axis->direction, axis->wanted);
      continue;
    }
    axis->share = (uint8_t)(share - TICKS_PER_MS);
    axis->left--;
    setFast(&axis->step, true);
    axis->at += axis->forward ? 1 : -1;
    setFast(&axis->step, false);
  }
}
// Once a millisecond: what is missing to where the axis is told to be goes out within the next one. Absolute, so nothing adds up.
static inline void aim(uint8_t k) {
  Axis* axis = &axes[axisOf[k]];
  noInterrupts();
  long missing = motors[k].isOn ? outOf(k) - axis->at : 0;
  const bool forward = missing > 0;
  if (!forward) missing = -missing;
  if (missing > (long)TICKS_PER_MS) missing = TICKS_PER_MS;
  if (axis->wanted != forward) axis->share = 0;
  axis->wanted = forward;
  axis->rate = axis->left = (uint8_t)missing;
  interrupts();
}
#endif

#if USES_TICK
// Called by the timer.
static inline void tick() {
#if USES_COUNTED
  countTracks();
#endif
#if USES_STEPS
  stepAxes();
#endif
}
static inline int32_t countOf(uint8_t k) {
#if USES_COUNTED
  if (kindOf(k) == COUNTED) return countedAt(k);
#endif
#if USES_STEPS
  noInterrupts();
  const int32_t at = axes[axisOf[k]].at;
  interrupts();
  return at;
#else
  return 0;
#endif
}
// Where it is told to be by now is here from now on.
static inline void countFrom(uint8_t k, long value) {
#if USES_COUNTED
  if (kindOf(k) == COUNTED) return recount(k, value);
#endif
#if USES_STEPS
  Axis* axis = &axes[axisOf[k]];
  noInterrupts();
  axis->at = value;
  axis->left = axis->rate = axis->share = 0;
  interrupts();
#endif
}
// Drivers of steppers are on while their pin is low, those of other motors while it is high.
static inline void setEnable(uint8_t k, bool on) {
  const uint8_t enable = pgm_read_byte(&MOTORS[k].enable);
  if (enable != NO_PIN) setPin(enable, on == (kindOf(k) == COUNTED));
}
static inline bool sharesEnable(uint8_t k) {
  for (uint8_t j = 0; j < MOTOR_COUNT; j++)
    if (j != k && counts(j) && motors[j].isOn && pgm_read_byte(&MOTORS[j].enable) == pgm_read_byte(&MOTORS[k].enable)) return true;
  return false;
}
#endif

#if USES_DRIVER
static uint16_t driven[MOTOR_COUNT];  // what the driver was last written; 0: off
static uint8_t nextDriven;
// One channel that changed a call, so that nothing waits for a bus for long.
static inline void writeDriver() {
  for (uint8_t n = 0; n < MOTOR_COUNT; n++) {
    const uint8_t k = nextDriven;
    nextDriven = (uint8_t)((nextDriven + 1) % MOTOR_COUNT);
    if (kindOf(k) != PULSE_DRIVER) continue;
    const uint16_t us = motors[k].isOn ? (uint16_t)outOf(k) : 0;
    if (us == driven[k]) continue;
    driven[k] = us;
    driverPulse(secondOf(k), pinOf(k), us);
    return;
  }
}
#endif

static inline void motorOff(uint8_t k);
static inline void tell(uint8_t k) {
  motors[k].value = (Value)clamped(k, motors[k].value);
#if USES_PULSE_PINS
  if (kindOf(k) == PULSE_PIN && motors[k].isOn) {
#if USES_WATCH
    const int out = (int)outOf(k);
#else
    const int out = (int)motors[k].value;
#endif
    if (servos[k].readMicroseconds() != out) servos[k].writeMicroseconds(out);
  }
#endif
#if USES_STEPS
  if (kindOf(k) == STEPPER) aim(k);
#endif
#if USES_COUNTED
  if (kindOf(k) == COUNTED && motors[k].isOn && !follow(k, outOf(k))) {
    motorOff(k);
    counted[countedOf[k]].isLost = true;
  }
#endif
}
static inline void motorOn(uint8_t k, Value value) {
  const bool was = motors[k].isOn;
  motors[k].value = value;
  motors[k].isOn = true;
#if USES_PULSE_PINS
  if (kindOf(k) == PULSE_PIN && !was) {
    servos[k].writeMicroseconds((int)value);  // the first pulse is this one
    servos[k].attach(pinOf(k), (int)lowOf(k), (int)highOf(k));
    servos[k].writeMicroseconds((int)value);
  }
#endif
#if USES_COUNTED
  if (kindOf(k) == COUNTED && !was) beginCounted(k, value);
#endif
#if USES_STEPS
  if (kindOf(k) == STEPPER && !was) countFrom(k, value);
#endif
#if USES_TICK
  if (counts(k)) setEnable(k, true);
#endif
  (void)was;
  tell(k);
}
static inline void motorOff(uint8_t k) {
  motors[k].isOn = false;
#if USES_WATCH
  corrections[k] = 0;
#endif
#if USES_PULSE_PINS
  if (kindOf(k) == PULSE_PIN && servos[k].attached()) servos[k].detach();
#endif
#if USES_STEPS
  if (kindOf(k) == STEPPER) aim(k);
#endif
#if USES_COUNTED
  if (kindOf(k) == COUNTED) {
    setTurning(k, 0);
    counted[countedOf[k]].isLost = false;
  }
#endif
#if USES_TICK
  if (counts(k) && !sharesEnable(k)) setEnable(k, false);
#endif
}

// Outputs at their safe level before they are outputs, drives off; nothing moves and no pulse goes out.
static inline void beginPins() {
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (pgm_read_byte(&SIGNALS[k].isOutput)) makeOutput(pgm_read_byte(&SIGNALS[k].pin), pgm_read_byte(&SIGNALS[k].level));
#if USES_STEPS
  uint8_t axis = 0;
#endif
#if USES_COUNTED
  uint8_t tracks = 0;
#endif
#if USES_TICK
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    if (!counts(k)) continue;
    const uint8_t enable = pgm_read_byte(&MOTORS[k].enable);
    if (enable != NO_PIN) makeOutput(enable, kindOf(k) != COUNTED);
    makeOutput(pinOf(k), false);
    makeOutput(secondOf(k), true);
#if USES_COUNTED
    if (kindOf(k) == COUNTED) beginTracks(k, tracks++);
#endif
#if USES_STEPS
    if (kindOf(k) != STEPPER) continue;
    axisOf[k] = axis;
    axes[axis].step = fastPin(pinOf(k));
    axes[axis].direction = fastPin(secondOf(k));
    axes[axis++].forward = true;
#endif
  }
  beginTick();
#endif
#if USES_BUS
  Wire.begin();
  // Displays are slow.
  Wire.setClock(DISPLAY_ROWS ? 100000 : 400000);
#endif
#if USES_DRIVER
  for (uint8_t k = 0; k < DRIVER_COUNT; k++) driverBegin(pgm_read_byte(&DRIVERS[k]));
#endif
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motors[k].value = (Value)(int32_t)pgm_read_dword(&MOTORS[k].rest);
}

// Inputs that this program knows of, and whether one of them stops the arm.
static inline void beginInputs() {
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (!pgm_read_byte(&SIGNALS[k].isOutput)) pinMode(pgm_read_byte(&SIGNALS[k].pin), pgm_read_byte(&SIGNALS[k].pull) ? INPUT_PULLUP : INPUT);
}
static inline bool isOn(uint8_t signal) {
  return isHigh(pgm_read_byte(&SIGNALS[signal].pin)) == (bool)pgm_read_byte(&SIGNALS[signal].level);
}
static inline bool isStopped() {
#if USES_COUNTED
  if (isAnyLost()) return true;
#endif
  for (uint8_t k = 0; k != SIGNAL_COUNT; k++)
    if (pgm_read_byte(&SIGNALS[k].stops) && isOn(k)) return true;
  return false;
}

// From now on milliseconds count.
static uint32_t lastMs;
static inline void begun() { lastMs = micros(); }
`;
