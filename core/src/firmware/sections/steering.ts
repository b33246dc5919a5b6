/** Steering: sticks push the tool, joints follow by a closed form. Between the mover and hand control. */
export const steering = String.raw`
// ── Steering: where the joints have to be for the tool to be there ──────────────────────────────────────────────────

// Joint values by now (rad, mm): of all turns that would do, a joint takes the one nearest to it.
static float joints[STEERED_COUNT];
// Which of the branches they are: which way the middle joint bends, and whether the arm reaches over its own turn.
static float side;
static bool isOver;

static const float HALF_TURN = 3.14159265f;
static const float SLACK_MM = 0.05f, SLACK_RAD = 0.0005f;

#if STEERS_DELTA
static bool solve(const float* at, float* out) {
  const float x = at[0] - ORIGIN_X, y = at[1] - ORIGIN_Y, z = at[2] - ORIGIN_Z;
  const float px = x * BASE_XX + y * BASE_XY + z * BASE_XZ;
  const float py = x * BASE_YX + y * BASE_YY + z * BASE_YZ;
  const float pz = x * BASE_ZX + y * BASE_ZY + z * BASE_ZZ;
  for (uint8_t k = 0; k < 3; k++) {
    const float c = pgm_read_float(&COSINES[k]), s = pgm_read_float(&SINES[k]);
    const float away = px * c + py * s - RADIUS, aside = py * c - px * s;
    const float square = away * away + pz * pz;
    // away·cos − z·sin = level
    const float level = (square + UPPER_ARM * UPPER_ARM + aside * aside - FOREARM * FOREARM) / (2.0f * UPPER_ARM);
    float beside = square - level * level;
    if (beside < -2.0f * SLACK_MM * UPPER_ARM) return false;
    if (beside < 0.0f) beside = 0.0f;
    const float towards = atan2f(-pz, away), lean = atan2f(sqrtf(beside), level);
    out[k] = pz <= 0.0f ? towards - lean : towards + lean;  // the knee outward
  }
  return true;
}
#else
static bool solve(const float* at, float* out) {
  const float dx = at[0] - FOOT_X, dy = at[1] - FOOT_Y, dz = at[2] - FOOT_Z;
  const float height = dx * UP_X + dy * UP_Y + dz * UP_Z;
  const float x = dx * OUT_X + dy * OUT_Y + dz * OUT_Z;
  const float y = dx * ASIDE_X + dy * ASIDE_Y + dz * ASIDE_Z;
#if STEERS_SLIDE
  out[0] = SLIDE * (y - LATERAL);
  float reach = x;
#else
  const float square = x * x + y * y;
  float reach = square - LATERAL * LATERAL;
  if (reach < -2.0f * SLACK_MM * fabsf(LATERAL)) return false;
  reach = reach > 0.0f ? sqrtf(reach) : 0.0f;
  // On the turn's axis any turn would do.
  if (square < SLACK_MM * SLACK_MM) out[0] = joints[0];
  else {
    const float lean = LATERAL == 0.0f ? 0.0f : atan2f(LATERAL, reach);
    out[0] = atan2f(y, x) - (isOver ? HALF_TURN - lean : lean);
  }
  if (isOver) reach = -reach;
#endif
  float u = height - FIXED_U, v = reach - FIXED_V;
#if BAR_COUNT == 3
  // Most of the time the hand is as it was.
  static float tilt, handU = HAND_U, handV = HAND_V;
  if (at[TILT] != tilt) {
    tilt = at[TILT];
    const float c = cosf(tilt), s = sinf(tilt);
    handU = HAND_U * c - HAND_V * s;
    handV = HAND_U * s + HAND_V * c;
  }
  u -= handU;
  v -= handV;
#endif
  // Both bars by the law of cosines; all by 2·FIRST·SECOND.
  const float way = u * u + v * v;
  float stretch = (FIRST + SECOND) * (FIRST + SECOND) - way, fold = way - (FIRST - SECOND) * (FIRST - SECOND);
  if (stretch < -2.0f * SLACK_MM * (FIRST + SECOND) || fold < -2.0f * SLACK_MM * (FIRST + SECOND) || way < 1.0f) return false;
  if (stretch < 0.0f) stretch = 0.0f;
  if (fold < 0.0f) fold = 0.0f;
  const float sine = side * sqrtf(stretch * fold), cosine = way - FIRST * FIRST - SECOND * SECOND;
  // Towards the wrist, less what the second bar takes: atan2(v, u) − atan2(sine, 2·FIRST² + cosine).
  const float along = 2.0f * FIRST * FIRST + cosine;
  const float first = atan2f(v * along - u * sine, u * along + v * sine);
  const float turns[3] = {first - FIRST_TURN, first + atan2f(sine, cosine) - SECOND_TURN, at[TILT]};
  for (uint8_t k = 0; k < BAR_COUNT; k++) {
    float sum = 0.0f;
    for (uint8_t n = 0; n < BAR_COUNT; n++) sum += (float)(int8_t)pgm_read_byte(&FROM_BARS[k][n]) * turns[n];
    out[1 + k] = sum;
  }
#if STEERS_ROLL
  out[1 + BAR_COUNT] = at[ROLL];
#endif
  return true;
}
#endif

#if BOUND_COUNT || USES_MIXES
static float summed(const float* factors, const float* values) {
  float sum = 0.0f;
  for (uint8_t k = 0; k < STEERED_COUNT; k++) sum += pgm_read_float(&factors[k]) * values[k];
  return sum;
}
#endif
static void turnNear(float* angle, float to) {
  while (*angle - to > HALF_TURN) *angle -= 2.0f * HALF_TURN;
  while (to - *angle > HALF_TURN) *angle += 2.0f * HALF_TURN;
}
// Solved, each joint on the turn nearest to where it is, and nothing past its limits.
static bool solveInside(const float* at, float* out) {
  if (!solve(at, out)) return false;
  for (uint8_t k = 0; k < STEERED_COUNT; k++) {
#if STEERS_SLIDE
    if (k > 0)
#endif
      turnNear(&out[k], joints[k]);
    if (out[k] < pgm_read_float(&LIMITS[k].low) - SLACK_RAD || out[k] > pgm_read_float(&LIMITS[k].high) + SLACK_RAD) return false;
  }
#if BOUND_COUNT
  for (uint8_t n = 0; n < BOUND_COUNT; n++) {
    if (pgm_read_byte(&BOUNDS[n].isWhile) && summed(BOUNDS[n].whenFactors, out) <= pgm_read_float(&BOUNDS[n].above)) continue;
    const float sum = summed(BOUNDS[n].factors, out);
    if (sum < pgm_read_float(&BOUNDS[n].low) - SLACK_RAD || sum > pgm_read_float(&BOUNDS[n].high) + SLACK_RAD) return false;
  }
#endif
  return true;
}
// What each motor is told then, in 256ths; false: one of them does not go so far.
static bool placesFor(const float* values, int32_t* told) {
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const float low = pgm_read_float(&GOERS[n].low), high = pgm_read_float(&GOERS[n].high);
#if USES_MIXES
    const uint8_t mix = pgm_read_byte(&GOERS[n].mix);
    float sum = mix == NO_MIX ? values[pgm_read_byte(&GOERS[n].joint)] : summed(MIXES[mix], values);
#else
    float sum = values[pgm_read_byte(&GOERS[n].joint)];
#endif
    if (sum < low - SLACK_RAD || sum > high + SLACK_RAD) return false;
    if (sum < low) sum = low;
    if (sum > high) sum = high;
    const float part = (sum - low) * pgm_read_float(&GOERS[n].piecesPer);
    uint8_t k = (uint8_t)part;
    if (k > GOER_PLACES - 2) k = GOER_PLACES - 2;
    const int32_t from = (int32_t)pgm_read_dword(&GOER_TABLES[n][k]), to = (int32_t)pgm_read_dword(&GOER_TABLES[n][k + 1]);
    told[n] = from + (int32_t)lroundf((float)(to - from) * (part - (float)k));
  }
  return true;
}

// ── Sticks ──────────────────────────────────────────────────────────────────────────────────────────────────────────

// A stick leads nothing before it has been let go for half a second: where it stands then is its middle.
struct StickState {
  int32_t middle;
  uint16_t stillMs;
};
static StickState sticks[STICK_COUNT];
static const uint16_t STILL_MS = 500;
static void learnMiddles() {
  for (uint8_t n = 0; n < STICK_COUNT; n++) {
    StickState* stick = &sticks[n];
    if (stick->stillMs >= STILL_MS) continue;
    const uint8_t sensor = pgm_read_byte(&STICKS[n].sensor);
    const int32_t half = (int32_t)pgm_read_dword(&STICKS[n].half) << FINE, reading = readings[sensor];
    const int32_t off = reading - ((int32_t)pgm_read_dword(&STICKS[n].middle) << FINE);
    const int32_t moved = reading - stick->middle;
    const bool isStill = isRead[sensor] && off < half / 3 && off > -half / 3 && moved < half / 64 && moved > -half / 64;
    if (!isStill || !stick->stillMs) stick->middle = reading;
    stick->stillMs = isStill ? (uint16_t)(stick->stillMs + 1) : 0;
  }
}
// How hard it is pushed, −1 to 1: nothing near its middle, and finely at first.
static const float DEAD_SHARE = 0.08f;
static float pushedBy(uint8_t n) {
  const StickState* stick = &sticks[n];
  if (stick->stillMs < STILL_MS) return 0.0f;
  const int32_t half = (int32_t)pgm_read_dword(&STICKS[n].half) << FINE;
  int32_t off = stick->middle - ((int32_t)pgm_read_dword(&STICKS[n].middle) << FINE);
  if (off < 0) off = -off;
  const float part = (float)(readings[pgm_read_byte(&STICKS[n].sensor)] - stick->middle) / (0.95f * (float)(half - off));
  float beyond = (fabsf(part) - DEAD_SHARE) / (1.0f - DEAD_SHARE);
  if (beyond <= 0.0f) return 0.0f;
  if (beyond > 1.0f) beyond = 1.0f;
  return (part > 0.0f) == !pgm_read_byte(&STICKS[n].reversed) ? beyond * beyond : -beyond * beyond;
}

// ── The tool's way, beat by beat ────────────────────────────────────────────────────────────────────────────────────

// A beat's work is spread over its milliseconds, one solution in each; motors go evenly from one beat's places to the next one's.
static const uint8_t BEAT_MS = 20;
static const float BEAT_S = 0.001f * (float)BEAT_MS;
static const float RAMP_S = 0.25f;  // from standing to full speed
static bool isSteering;
static uint8_t beatMs;
static float toolAt[PUSH_COUNT], speed[PUSH_COUNT], trial[PUSH_COUNT], wished[PUSH_COUNT];
static float nextJoints[STEERED_COUNT], lastChange[STEERED_COUNT];
static int32_t toPlaces[GOER_COUNT], nextPlaces[GOER_COUNT], eachMs[GOER_COUNT];
static bool isFound, isFine, isMoving, isAgreed;

static float mostOf(uint8_t push) { return push < TILT ? MOST_MM_PER_S : MOST_RAD_PER_S; }
static float slewed(float from, float to, float by) { return to > from + by ? from + by : to < from - by ? from - by : to; }
// Where the tool comes to a stand if it goes on for a beat as it is tried, and slows down from there.
static bool canStop() {
  float there[PUSH_COUNT], found[STEERED_COUNT];
  for (uint8_t k = 0; k < PUSH_COUNT; k++)
    there[k] = toolAt[k] + trial[k] * BEAT_S + trial[k] * fabsf(trial[k]) * RAMP_S / (2.0f * mostOf(k));
#if USES_MIXES
  return solveInside(there, found) && placesFor(found, nextPlaces);
#else
  return solveInside(there, found);
#endif
}
// The place after this beat, and what each motor has to do for it.
static void findNext() {
  float there[PUSH_COUNT];
  for (uint8_t k = 0; k < PUSH_COUNT; k++) there[k] = toolAt[k] + trial[k] * BEAT_S;
  isFound = solveInside(there, nextJoints) && placesFor(nextJoints, nextPlaces);
  isFine = false;
}
// By how much a joint or a motor would be too fast, or a joint get fast too quickly: 1 and less is fine.
static float excess() {
  float most = 0.0f;
  for (uint8_t k = 0; k < STEERED_COUNT; k++) {
    const float change = nextJoints[k] - joints[k];
    const float full = pgm_read_float(&JOINT_SPEEDS[k]) * BEAT_S;
    float may = full * BEAT_S / RAMP_S + 1e-4f;
    if ((change > 0.0f) == (lastChange[k] > 0.0f)) may += fabsf(lastChange[k]);
    if (may > full) may = full;
    const float share = fabsf(change) / may;
    if (share > most) most = share;
  }
  return most;
}
static void stand() {
  for (uint8_t k = 0; k < PUSH_COUNT; k++) speed[k] = trial[k] = 0.0f;
  for (uint8_t n = 0; n < GOER_COUNT; n++) nextPlaces[n] = toPlaces[n];
  for (uint8_t k = 0; k < STEERED_COUNT; k++) nextJoints[k] = joints[k];
}
static void beginBeat() {
  for (uint8_t k = 0; k < PUSH_COUNT; k++) wished[k] = 0.0f;
  for (uint8_t n = 0; n < STICK_COUNT; n++) {
    const uint8_t push = pgm_read_byte(&STICKS[n].push);
    wished[push] += pushedBy(n) * mostOf(push);
  }
  isMoving = isAgreed = false;
  for (uint8_t k = 0; k < PUSH_COUNT; k++)
    if (speed[k] != 0.0f || wished[k] != 0.0f) isMoving = true;
}
static float towards(uint8_t push, float goal) { return slewed(speed[push], goal, mostOf(push) * BEAT_S / RAMP_S); }
// All ways together, as they mostly may.
static void tryAll() {
  for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] = towards(k, wished[k]);
  isAgreed = canStop();
  if (isAgreed) return;
  for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] = towards(k, 0.0f);
}
// Each way by itself: what cannot go on there slows down, the others go on.
static void tryPush(uint8_t push) {
  if (isAgreed || wished[push] == 0.0f) return;
  const float slower = trial[push];
  trial[push] = towards(push, wished[push]);
  if (trial[push] != slower && !canStop()) trial[push] = slower;
}
static void endBeat() {
  if (!isMoving || !isFound || !isFine) stand();
  for (uint8_t k = 0; k < PUSH_COUNT; k++) {
    speed[k] = trial[k];
    toolAt[k] += speed[k] * BEAT_S;
  }
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const uint8_t k = pgm_read_byte(&GOERS[n].motor);
    const int32_t way = nextPlaces[n] - toPlaces[n];
    eachMs[n] = way / BEAT_MS;
    paces[k] = (float)way * (1.0f / (float)BEAT_MS);
    toPlaces[n] = nextPlaces[n];
  }
  for (uint8_t k = 0; k < STEERED_COUNT; k++) {
    lastChange[k] = nextJoints[k] - joints[k];
    joints[k] = nextJoints[k];
  }
}
// From where it is expected to stand (0), or from a kept pose: what its motors are to come to already.
static void steerFrom(uint8_t n) {
  isSteering = false;
  for (uint8_t k = 0; k < GOER_COUNT; k++) toPlaces[k] = goals[pgm_read_byte(&GOERS[k].motor)];
  for (uint8_t k = 0; k < PUSH_COUNT; k++) toolAt[k] = pgm_read_float(&STANDINGS[n].at[k]);
  for (uint8_t k = 0; k < STEERED_COUNT; k++) joints[k] = pgm_read_float(&STANDINGS[n].joints[k]);
  side = pgm_read_byte(&STANDINGS[n].isLeft) ? -1.0f : 1.0f;
  isOver = pgm_read_byte(&STANDINGS[n].isOver);
}
static bool isSteered(uint8_t motor) {
  if (!isSteering) return false;
  for (uint8_t n = 0; n < GOER_COUNT; n++)
    if (pgm_read_byte(&GOERS[n].motor) == motor) return true;
  return false;
}
// Steering begins once all its motors stand where the tool is.
static void takeUp() {
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const uint8_t k = pgm_read_byte(&GOERS[n].motor);
    if (!motors[k].isOn || places[k] != goals[k] || paces[k] != 0.0f) return;
  }
  for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] = speed[k] = 0.0f;
  findNext();
  if (!isFound) return;
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    toPlaces[n] = places[pgm_read_byte(&GOERS[n].motor)];
    eachMs[n] = 0;
  }
  for (uint8_t k = 0; k < STEERED_COUNT; k++) lastChange[k] = 0.0f;
  beatMs = 0;
  isSteering = true;
}
// It was held, and motors slowed down by themselves: they come back gently to where the tool was told to be.
static void steerOn() {
  for (uint8_t n = 0; n < GOER_COUNT; n++) goals[pgm_read_byte(&GOERS[n].motor)] = toPlaces[n];
}
static void workOn() {
  if (beatMs == 1) tryAll();
  else if (beatMs < PUSH_COUNT + 2) tryPush((uint8_t)(beatMs - 2));
  else if (beatMs == PUSH_COUNT + 2) findNext();
  else if (isFound && !isFine && beatMs < BEAT_MS - 1) {
    // What is too fast for a joint is too fast for the tool. Near a stretched arm that takes several rounds.
    const float by = excess();
    isFine = by <= 1.0f;
    if (isFine) return;
    for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] *= 0.98f / by;
    findNext();
  }
}
static void steer() {
  if (!isSteering) return takeUp();
  if (beatMs == 0) beginBeat();
  else if (isMoving) workOn();
  beatMs++;
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const uint8_t k = pgm_read_byte(&GOERS[n].motor);
    if (eachMs[n] == 0 && places[k] == toPlaces[n]) continue;
    places[k] = goals[k] = beatMs < BEAT_MS ? places[k] + eachMs[n] : toPlaces[n];
    motors[k].value = (Value)((places[k] + 128) >> 8);
  }
  if (beatMs < BEAT_MS) return;
  beatMs = 0;
  endBeat();
}
`;
