/** Motors on their way to goals, gently at first: what hand control and registers move by. */
export const mover = String.raw`
// ── On the way to goals: no faster than a motor may go, and speeding up and slowing down gently ─────────────────────

#include <math.h>

// From standing to full speed in no less than this.
static const float RAMP_MS = 250.0f;
// Where motors are told to be, in 256ths, where they are to come, and 256ths that they go a millisecond.
static int32_t places[MOTOR_COUNT], goals[MOTOR_COUNT];
static float paces[MOTOR_COUNT];
// Whether a motor has caught up with its goal: until then it goes gently.
static bool caughtUp[MOTOR_COUNT];
static uint8_t sharePercent = 100;  // of the speeds

#if USES_STEERING
static bool isSteered(uint8_t motor);
#endif

static float perMs(int32_t perS) { return (float)perS * 0.256f; }
static float rampOf(uint8_t k) { return perMs((int32_t)pgm_read_dword(&SPEEDS[k].perS)) / RAMP_MS; }
static void standAt(uint8_t k, int32_t place) {
  places[k] = goals[k] = place;
  paces[k] = 0.0f;
  caughtUp[k] = false;
}
// Each motor as fast as it may be so that it comes to a stand at its goal: v² = 2·a·way.
static void move() {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    if (!motors[k].isOn || pgm_read_byte(&MOTORS[k].turns)) continue;
#if USES_STEERING
    if (isSteered(k)) continue;
#endif
    const int32_t left = goals[k] - places[k];
    // It stands where it is to be.
    if (left == 0 && paces[k] == 0.0f) {
      caughtUp[k] = true;
      continue;
    }
    const float ramp = rampOf(k);
    const float most = perMs((int32_t)pgm_read_dword(caughtUp[k] ? &SPEEDS[k].perS : &SPEEDS[k].gentlePerS)) * (float)sharePercent / 100.0f;
    float wish = sqrtf(2.0f * ramp * fabsf((float)left));
    if (wish > most) wish = most;
    if (left < 0) wish = -wish;
    float change = wish - paces[k];
    if (change > ramp) change = ramp;
    if (change < -ramp) change = -ramp;
    paces[k] += change;
    if (left > -512 && left < 512) caughtUp[k] = true;
    if (left > -64 && left < 64 && fabsf(paces[k]) < 64.0f) {
      places[k] = goals[k];
      paces[k] = 0.0f;
    } else
      places[k] += (int32_t)lroundf(paces[k]);
    motors[k].value = (Value)((places[k] + 128) >> 8);
  }
}
// Goals become where motors come to a stand if they slow down now.
static void slowDown() {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) {
    const float way = paces[k] * fabsf(paces[k]) / (2.0f * rampOf(k));
    goals[k] = places[k] + (int32_t)lroundf(way);
    caughtUp[k] = true;
  }
}
`;
