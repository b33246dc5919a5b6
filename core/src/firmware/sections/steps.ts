/** What a player plays: records of steps in flash, whose motion the board works out by itself. */
export const steps = String.raw`
// ── The routine as steps ────────────────────────────────────────────────────────────────────────────────────────────

enum Doing : uint8_t { NEXT_STEP, MOVING, AWAITING, SEEKING, ALL_DONE };
static uint8_t doing;
static uint32_t inStep;        // 256ths of a millisecond since this step began
static int32_t counters[COUNTER_COUNT];
static uint32_t lapsLeft[LOOP_COUNT];

static uint32_t readPlace() {
  const uint32_t low = readByte(), middle = readByte();
  return low | middle << 8 | (uint32_t)readByte() << 16;
}

// A move: how its way is gone along, and straight pieces between whole numbers of the motors that move.
enum Law : uint8_t { LAW_EVEN, LAW_AT_ONCE, LAW_MINIMUM_JERK, LAW_RAMPS };
static uint8_t law;
static uint32_t moveTime, pieceFrom, pieceTo;  // pieces: 65536ths of the way
static float rampUp, jerkUp, rampDown, jerkDown;
static const uint8_t MASK_BYTES = (uint8_t)((MOTOR_COUNT + 7) / 8);
static uint8_t moves[MASK_BYTES];
static uint32_t piecesLeft;
static Value base[MOTOR_COUNT], change[MOTOR_COUNT], wanted[MOTOR_COUNT];
static inline bool isIn(const uint8_t* mask, uint8_t k) { return mask[k / 8] >> (k % 8) & 1; }
static void readMask(uint8_t* mask) {
  for (uint8_t k = 0; k < MASK_BYTES; k++) mask[k] = readByte();
}
static void nextPiece() {
  pieceFrom = pieceTo;
  pieceTo = --piecesLeft ? pieceTo + readVar() : 65536;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    base[k] = (Value)(base[k] + change[k]);
    change[k] = isIn(moves, k) ? (Value)readSigned() : 0;
  }
}
static void beginMove() {
  moveTime = readVar();
  law = readByte();
  if (law == LAW_RAMPS) {
    rampUp = (float)readVar();
    jerkUp = (float)readVar();
    rampDown = (float)readVar();
    jerkDown = (float)readVar();
  }
  readMask(moves);
  piecesLeft = readVar();
  pieceTo = 0;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) change[k] = 0;
  if (piecesLeft) nextPiece();
  else pieceTo = 65536;
}
// The way after so long of speeding up evenly, to 1, with jerk at both ends.
static float rampWay(float t, float all, float jerk) {
  const float most = 1.0f / (all - jerk);
  if (t < jerk) return most / jerk * t * t * t / 6.0f;
  if (t > all - jerk) {
    const float left = all - t;
    return all / 2.0f - left + most / jerk * left * left * left / 6.0f;
  }
  const float since = t - jerk;
  return most * (jerk * jerk / 6.0f + jerk / 2.0f * since + since * since / 2.0f);
}
static float shareOfWay() {
  if (law == LAW_AT_ONCE || inStep >= moveTime) return 1.0f;
  const float t = (float)inStep, all = (float)moveTime;
  if (law == LAW_EVEN) return t / all;
  if (law == LAW_MINIMUM_JERK) {
    const float u = t / all;
    return u * u * u * (10.0f + u * (6.0f * u - 15.0f));
  }
  const float speed = 1.0f / (all - (rampUp + rampDown) / 2.0f);
  if (t < rampUp) return speed * rampWay(t, rampUp, jerkUp);
  if (t > all - rampDown) return 1.0f - speed * rampWay(all - t, rampDown, jerkDown);
  return speed * (t - rampUp / 2.0f);
}
static void place() {
  const float way = shareOfWay() * 65536.0f;
  while (piecesLeft && way >= (float)pieceTo) nextPiece();
  const float part = (way - (float)pieceFrom) / (float)(pieceTo - pieceFrom);
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) wanted[k] = change[k] ? (Value)(base[k] + rounded((float)change[k] * part)) : base[k];
}
static void endMove() {
  while (piecesLeft) nextPiece();
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    wanted[k] = base[k] = (Value)(base[k] + change[k]);
    change[k] = 0;
  }
}

static void switchPower() {
  const bool on = readByte();
  uint8_t mask[MASK_BYTES];
  readMask(mask);
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    if (!isIn(mask, k) || motors[k].isOn == on) continue;
    if (on) motorOn(k, motors[k].value);
    else {
      motorOff(k);
#if USES_HOMING
      if (counts(k)) isHomed = false;
#endif
    }
  }
}
#if USES_HOMING
// Motors that go steadily until a signal is as wanted, or for so long.
static const uint8_t SOUGHT = 3;
static uint8_t soughtCount, sought[SOUGHT];
static int32_t soughtPerS[SOUGHT];
static Value soughtFrom[SOUGHT];
static bool isUntil;
static uint8_t untilSignal, untilOn;
static uint32_t seekTime;
static void beginSeek() {
  isUntil = readByte();
  if (isUntil) {
    untilSignal = readByte();
    untilOn = readByte();
  }
  const bool ifOn = readByte();
  seekTime = readVar() * 256;
  soughtCount = readByte();
  for (uint8_t n = 0; n < soughtCount; n++) {
    sought[n] = readByte();
    soughtPerS[n] = readSigned();
    soughtFrom[n] = wanted[sought[n]];
  }
  if (!ifOn || isOn(untilSignal)) doing = SEEKING;
}
static void seekOn(uint32_t time) {
  for (uint8_t n = 0; n < soughtCount; n++)
    wanted[sought[n]] = (Value)(soughtFrom[n] + (int32_t)((int64_t)soughtPerS[n] * (int64_t)time / 256000));
}
static void endSeek() {
  for (uint8_t n = 0; n < soughtCount; n++) base[sought[n]] = wanted[sought[n]];
  doing = NEXT_STEP;
}
static void seekFailed() {
  endSeek();
  state = STANDING;
  isWanted = false;
  pace = 0;
  begin(PSTR("homing in vain"));
  number(soughtCount ? pgm_read_word(&MOTORS[sought[0]].channel) : 0);
  end();
}
static void beginLead() {
  moveTime = readVar();
  law = LAW_MINIMUM_JERK;
  piecesLeft = 0;
  pieceFrom = 0;
  pieceTo = 65536;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) change[k] = (Value)(readSigned() - base[k]);
}
static void countAnew() {
  const uint8_t k = readByte();
  const int32_t value = readSigned();
  if (!counts(k)) return;
  countFrom(k, value);
  motors[k].value = base[k] = wanted[k] = value;
}
#endif
static uint8_t awaited, awaitedLevel;
static uint32_t awaitMs, inVain, waitedFor, waitedPart;

enum Op : uint8_t {
  OP_END, OP_VAIN, OP_MOVE, OP_SWITCH, OP_POWER, OP_SET, OP_ADD, OP_LOOP, OP_GO, OP_READ, OP_AWAIT, OP_COMPARE, OP_LAP,
  OP_LEAD, OP_SEEK, OP_COUNT
};
static void nextStep() {
  const uint8_t op = readByte();
  uint8_t which;
  uint32_t elsewhere;
  switch (op) {
    case OP_MOVE:
      beginMove();
      doing = MOVING;
      break;
    case OP_SWITCH:
      which = readByte();
      setPin(which, readByte());
      break;
    case OP_POWER:
      switchPower();
      break;
    case OP_SET:
      which = readByte();
      counters[which] = readSigned();
      break;
    case OP_ADD:
      which = readByte();
      counters[which] += readSigned();
      break;
    case OP_LOOP:
      which = readByte();
      lapsLeft[which] = readVar();
      break;
    case OP_GO:
      readAt = readPlace();
      break;
    case OP_READ:
      which = readByte();
      elsewhere = readPlace();
      if (!isOn(which)) readAt = elsewhere;
      break;
    case OP_AWAIT:
      awaited = readByte();
      awaitedLevel = readByte();
      awaitMs = readVar();
      inVain = readPlace();
      waitedFor = waitedPart = 0;
      doing = AWAITING;
      break;
    case OP_COMPARE: {
      which = readByte();
      const uint8_t how = readByte();
      const int32_t value = readSigned();
      elsewhere = readPlace();
      const bool holds = how == 0 ? counters[which] < value : how == 1 ? counters[which] == value : counters[which] > value;
      if (!holds) readAt = elsewhere;
      break;
    }
    case OP_LAP:
      which = readByte();
      elsewhere = readPlace();
      if (--lapsLeft[which]) readAt = elsewhere;
      break;
#if USES_HOMING
    case OP_LEAD:
      beginLead();
      doing = MOVING;
      break;
    case OP_SEEK:
      beginSeek();
      break;
    case OP_COUNT:
      countAnew();
      break;
#endif
    default:
      if (op == OP_VAIN) isWanted = false;  // not again by itself
      // What turns stands where the routine ends.
      for (uint8_t k = 0; k < MOTOR_COUNT; k++)
        if (pgm_read_byte(&MOTORS[k].turns)) wanted[k] = base[k] = (Value)(int32_t)pgm_read_dword(&MOTORS[k].rest);
      doing = ALL_DONE;
      break;
  }
}

#if USES_LOW_PASS
// Each loop takes a part (65536ths) of what is left, in 256ths of whole numbers, so that it does not stall short of them.
static int32_t passed[MOTOR_COUNT];
static uint32_t inLoop;
static void pass() {
  for (inLoop += pace; inLoop >= LOOP_TIME; inLoop -= LOOP_TIME)
    for (uint8_t k = 0; k < MOTOR_COUNT; k++)
      passed[k] += (int32_t)(((int64_t)(((int32_t)wanted[k] << 8) - passed[k]) * (int32_t)LOOP_PART) >> 16);
}
static inline long told(uint8_t k) { return pgm_read_byte(&MOTORS[k].turns) ? wanted[k] : (passed[k] + 128) >> 8; }
static bool isThere() {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (told(k) != wanted[k]) return false;
  return true;
}
#else
static inline void pass() {}
static inline long told(uint8_t k) { return wanted[k]; }
static inline bool isThere() { return true; }
#endif

static inline Value firstOf(uint8_t k) { return (Value)(int32_t)pgm_read_dword(&FIRST[routine][k]); }
static void rewind() {
  readAt = pgm_read_dword(&ENTRIES[routine]);
  doing = NEXT_STEP;
  inStep = 0;
  for (uint8_t k = 0; k < COUNTER_COUNT; k++) counters[k] = 0;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    base[k] = wanted[k] = firstOf(k);
    change[k] = 0;
#if USES_LOW_PASS
    passed[k] = (int32_t)base[k] << 8;
#endif
  }
}
static void atFirst() {
#if USES_LOW_PASS
  inLoop = 0;
#endif
}
// A round does so many steps that take no time.
static const uint8_t STEPS_A_ROUND = 20;
static void advance() {
  inStep += pace;
  for (uint8_t n = 0; n < STEPS_A_ROUND; n++) {
    if (doing == NEXT_STEP) {
      nextStep();
    } else if (doing == MOVING) {
      if (inStep < moveTime) {
        place();
        return;
      }
      endMove();
      inStep -= moveTime;
      doing = NEXT_STEP;
    } else if (doing == AWAITING) {
      if (isOn(awaited) == (bool)awaitedLevel) {
        doing = NEXT_STEP;
        continue;
      }
      waitedPart += inStep;
      waitedFor += waitedPart >> 8;
      waitedPart &= 255;
      inStep = 0;
      if (!awaitMs || waitedFor < awaitMs) return;
      readAt = inVain;
      doing = NEXT_STEP;
#if USES_HOMING
    } else if (doing == SEEKING) {
      if (isUntil && isOn(untilSignal) == (bool)untilOn) {
        endSeek();
        inStep = 0;
      } else if (inStep < seekTime) {
        seekOn(inStep);
        return;
      } else {
        seekOn(seekTime);
        inStep -= seekTime;
        if (!isUntil) endSeek();
        else {
          seekFailed();
          return;
        }
      }
#endif
    } else
      return;
  }
}
#if USES_HOMING
static void beginHoming() {
  state = HOMING;
  isHoming = true;
#if USES_WATCH
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) corrections[k] = 0;
#endif
  readAt = HOMING_ENTRY;
  doing = NEXT_STEP;
  inStep = 0;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) base[k] = wanted[k] = from[k];
}
static void home() {
  if (pace) advance();
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motors[k].value = paced(k, wanted[k]);
  if (state != HOMING || doing != ALL_DONE) return;
  isHoming = false;
  isHomed = true;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) from[k] = motors[k].value;
  rewind();
  leave();
}
#endif
// Nothing goes on while it stands.
static void play() {
  if (pace) {
    advance();
    pass();
  }
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motors[k].value = paced(k, told(k));
  if (doing == ALL_DONE && isThere()) done();
}
`;
