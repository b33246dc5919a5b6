/** Steering: sticks push the tool, joints follow by a closed form. Between the mover and hand control. */
export const steering = String.raw`
// ── Steering: where the joints have to be for the tool to be there ──────────────────────────────────────────────────

// Joint values by now (rad, mm): of all turns that would do, a joint takes the one nearest to it.
static float joints[STEERED_COUNT];
// Which way the middle joint bends.
static float side;

static const float HALF_TURN = 3.14159265f;
static void turnNear(float* angle, float to) {
  while (*angle - to > HALF_TURN) *angle -= 2.0f * HALF_TURN;
  while (to - *angle > HALF_TURN) *angle += 2.0f * HALF_TURN;
}
static const float SLACK_MM = 0.05f, SLACK_RAD = 0.0005f;

#if STEERS_DELTA
static bool solve(const float* at, float* out) {
  const float x = at[0] - ORIGIN_X, y = at[1] - ORIGIN_Y, z = at[2] - ORIGIN_Z;
  const float px = x * BASE_X_X + y * BASE_X_Y + z * BASE_X_Z;
  const float py = x * BASE_Y_X + y * BASE_Y_Y + z * BASE_Y_Z;
  const float pz = x * BASE_Z_X + y * BASE_Z_Y + z * BASE_Z_Z;
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
#if STEERS_WRIST
// The tool's rotation where steering began.
static float turned[9];
static float dot(const float* a, const float* b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
// A direction of the tool's own frame as it is tilted and rolled by now, in the arm's axes.
static void ofTool(const float* at, const float* own, float* out) {
  static float tilt, roll, tiltSine, tiltCosine = 1.0f, rollSine, rollCosine = 1.0f;
  if (at[TILT] != tilt || at[ROLL] != roll) {
    tilt = at[TILT];
    roll = at[ROLL];
    tiltSine = sinf(tilt);
    tiltCosine = cosf(tilt);
    rollSine = sinf(roll);
    rollCosine = cosf(roll);
  }
  const float x = rollCosine * own[0] - rollSine * own[1], y = rollSine * own[0] + rollCosine * own[1];
  const float tilted[3] = {tiltCosine * x + tiltSine * own[2], y, tiltCosine * own[2] - tiltSine * x};
  for (uint8_t k = 0; k < 3; k++) out[k] = dot(&turned[3 * k], tilted);
}
// The turn about an axis that brings one direction onto another.
static float turnOnto(const float* axis, const float* from, const float* to) {
  const float triple = axis[0] * (from[1] * to[2] - from[2] * to[1]) + axis[1] * (from[2] * to[0] - from[0] * to[2]) +
                       axis[2] * (from[0] * to[1] - from[1] * to[0]);
  return atan2f(triple, dot(from, to) - dot(axis, from) * dot(axis, to));
}
static void turnAbout(const float* axis, float angle, float* v) {
  const float s = sinf(angle), c = cosf(angle), along = dot(axis, v) * (1.0f - c);
  const float x = c * v[0] + s * (axis[1] * v[2] - axis[2] * v[1]) + axis[0] * along;
  const float y = c * v[1] + s * (axis[2] * v[0] - axis[0] * v[2]) + axis[1] * along;
  v[2] = c * v[2] + s * (axis[0] * v[1] - axis[1] * v[0]) + axis[2] * along;
  v[0] = x;
  v[1] = y;
}
// Undoes the turn of the base (about up), then that of the second bar (about aside).
static void undo(float turn, float bend, float* v) {
  const float s = sinf(turn), c = cosf(turn), x = c * v[0] + s * v[1];
  v[1] = c * v[1] - s * v[0];
  const float sine = sinf(bend), cosine = cosf(bend), z = v[2];
  v[0] = cosine * x - sine * z;
  v[2] = sine * x + cosine * z;
}
// Two of its angles by the second subproblem of Paden and Kahan, the last by their first.
static bool solveWrist(const float* at, float bend, float* out) {
  float last[3], across[3], first[3];
  ofTool(at, TOOL_6, last);
  ofTool(at, TOOL_ACROSS, across);
  undo(out[0], bend, last);
  undo(out[0], bend, across);
  const float along = dot(AXIS_4, last), by = 1.0f - BETWEEN_4_5 * BETWEEN_4_5;
  const float a = (along - BETWEEN_5_6 * BETWEEN_4_5) / by, b = (BETWEEN_5_6 - BETWEEN_4_5 * along) / by;
  float square = (1.0f - a * a - b * b - 2.0f * a * b * BETWEEN_4_5) / by;
  if (square < -1e-4f) return false;
  if (square < 0.0f) square = 0.0f;
  const float beside = sqrtf(square);
  // Of the two ways in which it may stand the one that is nearer.
  float nearest = 100.0f;
  for (int8_t way = -1; way <= 1; way += 2) {
    for (uint8_t k = 0; k < 3; k++) first[k] = a * AXIS_4[k] + b * AXIS_5[k] + (float)way * beside * CROSSED[k];
    float bent = turnOnto(AXIS_5, AXIS_6, first);
    // With the last axis along the first one only the sum of their turns counts.
    float twist = along * along > 1.0f - 1e-6f ? joints[3] : turnOnto(AXIS_4, first, last);
    turnNear(&bent, joints[4]);
    turnNear(&twist, joints[3]);
    const float off = fabsf(bent - joints[4]) + fabsf(twist - joints[3]);
    if (off >= nearest) continue;
    nearest = off;
    out[3] = twist;
    out[4] = bent;
  }
  turnAbout(AXIS_4, -out[3], across);
  turnAbout(AXIS_5, -out[4], across);
  out[5] = turnOnto(AXIS_6, ACROSS_6, across);
  return true;
}
#endif
static bool solve(const float* at, float* out) {
  const float dx = at[0] - FOOT_X, dy = at[1] - FOOT_Y, dz = at[2] - FOOT_Z;
  float height = dx * UP_X + dy * UP_Y + dz * UP_Z;
  float x = dx * OUT_X + dy * OUT_Y + dz * OUT_Z;
  float y = dx * ASIDE_X + dy * ASIDE_Y + dz * ASIDE_Z;
#if STEERS_WRIST
  // The point of the wrist is what the first three joints bring to its place.
  float centre[3];
  ofTool(at, TOOL_CENTRE, centre);
  x += centre[0];
  y += centre[1];
  height += centre[2];
#endif
#if STEERS_SLIDE
  out[0] = SLIDE * (y - LATERAL);
  float reach = x;
#else
  const float square = x * x + y * y;
  float reach = square - LATERAL * LATERAL;
  if (reach < -2.0f * SLACK_MM * fabsf(LATERAL)) return false;
  reach = reach > 0.0f ? sqrtf(reach) : 0.0f;
  // Facing there or reaching over, whichever is nearer: through its own axis it goes straight on. On the axis any turn would do.
  const float towards = square > 1e-6f ? atan2f(y, x) : joints[0];
  const float lean = LATERAL == 0.0f ? 0.0f : atan2f(LATERAL, reach);
  float over = towards - HALF_TURN + lean;
  out[0] = towards - lean;
  turnNear(&out[0], joints[0]);
  turnNear(&over, joints[0]);
  if (fabsf(over - joints[0]) < fabsf(out[0] - joints[0])) {
    out[0] = over;
    reach = -reach;
  }
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
#if STEERS_WRIST
  return solveWrist(at, turns[1], out);
#else
  return true;
#endif
}
#endif

#if BOUND_COUNT || USES_MIXES
static float summed(const float* factors, const float* values) {
  float sum = 0.0f;
  for (uint8_t k = 0; k < STEERED_COUNT; k++) sum += pgm_read_float(&factors[k]) * values[k];
  return sum;
}
#endif
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
    if (sum < pgm_read_float(&BOUNDS[n].low) || sum > pgm_read_float(&BOUNDS[n].high)) return false;
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
    const int32_t off = reading - half;
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
  int32_t off = stick->middle - half;
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
static const float MOST_ROUNDS = 40.0f;
static const float RAMP_S = 0.25f;  // from standing to full speed
// isStranded: from where it stands there is no steering, until it has been somewhere else.
static bool isSteering, isStranded;
static uint16_t beatMs, lengthMs;
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
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const float share = fabsf((float)(nextPlaces[n] - toPlaces[n])) / (pgm_read_float(&GOERS[n].mostPerS) * BEAT_S);
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
  lengthMs = BEAT_MS;
  const float rounds = isMoving && isFound && !isFine ? excess() : 0.0f;
  if (!isMoving || !isFound || rounds > MOST_ROUNDS) stand();
  // However short the way, joints have that far to go, by a turn's axis or with a straight wrist: they take their time.
  else if (rounds > 1.0f) lengthMs = (uint16_t)(BEAT_MS * (uint16_t)(rounds + 1.0f));
  for (uint8_t k = 0; k < PUSH_COUNT; k++) {
    toolAt[k] += trial[k] * BEAT_S;
    speed[k] = lengthMs == BEAT_MS ? trial[k] : 0.0f;
  }
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const uint8_t k = pgm_read_byte(&GOERS[n].motor);
    const int32_t way = nextPlaces[n] - toPlaces[n];
    eachMs[n] = way / (int32_t)lengthMs;
    paces[k] = (float)way / (float)lengthMs;
    toPlaces[n] = nextPlaces[n];
  }
  for (uint8_t k = 0; k < STEERED_COUNT; k++) {
    lastChange[k] = lengthMs == BEAT_MS ? nextJoints[k] - joints[k] : 0.0f;
    joints[k] = nextJoints[k];
  }
}
// From where it is expected to stand (0), or from a kept pose: what its motors are to come to already.
static void steerFrom(uint8_t n) {
  isSteering = isStranded = false;
  for (uint8_t k = 0; k < GOER_COUNT; k++) toPlaces[k] = goals[pgm_read_byte(&GOERS[k].motor)];
  for (uint8_t k = 0; k < PUSH_COUNT; k++) toolAt[k] = pgm_read_float(&STANDINGS[n].at[k]);
  for (uint8_t k = 0; k < STEERED_COUNT; k++) joints[k] = pgm_read_float(&STANDINGS[n].joints[k]);
  side = pgm_read_byte(&STANDINGS[n].isLeft) ? -1.0f : 1.0f;
#if STEERS_WRIST
  for (uint8_t k = 0; k < 9; k++) turned[k] = pgm_read_float(&STANDINGS[n].turned[k]);
#endif
}
static bool isSteered(uint8_t motor) {
  if (!isSteering) return false;
  for (uint8_t n = 0; n < GOER_COUNT; n++)
    if (pgm_read_byte(&GOERS[n].motor) == motor) return true;
  return false;
}
// Steering begins once all its motors stand where the tool is.
static void takeUp() {
  if (isStranded) return;
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    const uint8_t k = pgm_read_byte(&GOERS[n].motor);
    if (!motors[k].isOn || places[k] != goals[k] || paces[k] != 0.0f) return;
  }
  for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] = speed[k] = 0.0f;
  findNext();
  isStranded = !isFound;
  if (isStranded) return;
  for (uint8_t n = 0; n < GOER_COUNT; n++) {
    toPlaces[n] = places[pgm_read_byte(&GOERS[n].motor)];
    eachMs[n] = 0;
  }
  for (uint8_t k = 0; k < STEERED_COUNT; k++) lastChange[k] = 0.0f;
  beatMs = 0;
  lengthMs = BEAT_MS;
  isSteering = true;
}
// It was held, and motors slowed down by themselves: they come back gently to where the tool was told to be.
static void steerOn() {
  for (uint8_t n = 0; n < GOER_COUNT; n++) goals[pgm_read_byte(&GOERS[n].motor)] = toPlaces[n];
}
// How far it goes in a beat, in the least ways that are gone: what is too fast all the same is gone in several beats' time.
static const float LEAST_MM = 0.02f, LEAST_RAD = 0.0002f;
static float inLeasts() {
  float most = 0.0f;
  for (uint8_t k = 0; k < PUSH_COUNT; k++) {
    const float way = fabsf(trial[k]) * BEAT_S / (k < TILT ? LEAST_MM : LEAST_RAD);
    if (way > most) most = way;
  }
  return most;
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
    const float way = inLeasts();
    if (way <= 1.0f) return;
    const float share = 0.98f / by * way > 1.0f ? 0.98f / by : 1.0f / way;
    for (uint8_t k = 0; k < PUSH_COUNT; k++) trial[k] *= share;
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
    places[k] = goals[k] = beatMs < lengthMs ? places[k] + eachMs[n] : toPlaces[n];
    motors[k].value = (Value)((places[k] + 128) >> 8);
  }
  if (beatMs < lengthMs) return;
  beatMs = 0;
  endBeat();
}
`;
