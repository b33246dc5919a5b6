/** Types that stand in the heads of functions: before the first of them, since platforms declare functions there by themselves. */
export const bridgeTypes = String.raw`
// What a pin is used for, and what moves by itself until an input is there or its time is up.
static const uint8_t SOUGHT = 3;
enum Use : uint8_t { UNUSED, RELAY, INPUT_PIN, SENSOR_PIN };
struct Seek {
  enum Phase : uint8_t { FREE, RUNNING, FOUND } phase;
  bool hit;
  long id;
  uint8_t pin, level, count;  // pin: index, or NONE
  uint8_t motor[SOUGHT];
  Value base[SOUGHT];
  long perS[SOUGHT];
  long ms, doneMs;
};
`;
/** What a bridge keeps: motors, pins, sensors, its queue, and how it comes to a stand. */
export const state = String.raw`
// ── Bridge: protocol 2 ────────────────────────────────────────────────────────────────────────────────────────────────

static const uint8_t NONE = 255;
static const uint8_t MAX_QUEUED_MS = 100;
static const long LONGEST_SEEK = 600000;
static const uint8_t SEEKS = 3;

enum State : uint8_t { ASLEEP, AWAKE, HALTED };
static State state = ASLEEP;

struct Channel {
  bool hasBounds, turns;  // turns: it is sent speeds and has a value that stops it
  Value low, high, still;
  long perS;
  Value from, to;  // of the point under way
  Value last;      // where it is once all that is queued has been played
};
static Channel channels[MOTOR_COUNT];

// Pins that switch or are read, once they were told to.
struct PinState {
  Use use;
  uint8_t level, safe;
};
static PinState pins[FREE_PIN_COUNT + 1];

struct Sensor {
  long id;
  uint8_t pin, address, port;
  bool isKnown;
  int16_t count;
};
static Sensor sensors[SENSOR_COUNT + 1];
static uint8_t sensorCount, nextSensor;

static Seek seeks[SEEKS];
static long soughtId;

// What is queued: points as a row of values, in a ring. The point under way is the first.
struct Item {
  uint8_t index;  // of a motor, or MOTOR_COUNT + that of a pin, or NONE
  Value value;
};
static Item items[ITEM_COUNT];
static uint16_t itemFrom, itemCount;
struct Point {
  uint8_t ms, count;
};
static Point points[POINT_COUNT];
static uint8_t pointFrom, pointCount;
static bool isPlaying;
static uint8_t doneMs;
// A point of which lines are still to come: its values are behind those of the ring.
static bool isBegun, begunTwice;
static uint8_t begunMs, begunParts;
static uint16_t begunCount;

static long wanted, ordered = -1;
static long watchMs, offMs = -1, silentMs;
static long reportMs, sinceReport;
static uint32_t clockMs;

static uint8_t motorAt(uint16_t channel) {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (pgm_read_word(&MOTORS[k].channel) == channel) return k;
  return NONE;
}
static uint8_t pinAt(uint16_t channel) {
  for (uint8_t k = 0; k != FREE_PIN_COUNT; k++)
    if (pgm_read_byte(&FREE_PINS[k]) == channel) return k;
  return NONE;
}
static uint16_t channelAt(uint8_t k) { return pgm_read_word(&MOTORS[k].channel); }

static void refuse(const char* what, long n, const char* why) {
  begin(PSTR("refused "));
  putWord(what);
  number(n);
  put(' ');
  putWord(why);
  end();
}
static void greet() {
  begin(PSTR("board 2 servo"));
  number(CHANNEL_COUNT);
  number(BUFFER_BYTES);
  putWord(MADE_FOR);
  end();
}
static uint8_t queuedMs() {
  uint16_t sum = 0;
  for (uint8_t n = 0; n < pointCount; n++) sum = (uint16_t)(sum + points[(pointFrom + n) % POINT_COUNT].ms);
  return (uint8_t)(sum - (isPlaying ? doneMs : 0));
}
static void took(long seq) {
  begin(PSTR("took"));
  number(seq);
  number(queuedMs());
  end();
}

static void stand(uint8_t k, Value value) {
  motors[k].value = channels[k].from = channels[k].to = channels[k].last = value;
}
// Nothing is due: what goes to places holds the last value, what turns at speeds stops.
static void standStill() {
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (channels[k].turns) stand(k, channels[k].still);
}
// Forgets what is queued: every motor stays where it is by now.
static void empty() {
  pointCount = 0;
  itemCount = 0;
  isPlaying = isBegun = false;
  for (uint8_t n = 0; n < SEEKS; n++) seeks[n].phase = Seek::FREE;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) channels[k].last = motors[k].value;
  standStill();
}
static void freeze() {
  empty();
  if (state == AWAKE) state = HALTED;
}
static void fallAsleep() {
  empty();
  state = ASLEEP;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++) motorOff(k);
  for (uint8_t k = 0; k != FREE_PIN_COUNT; k++)
    if (pins[k].use == RELAY) setPin(pgm_read_byte(&FREE_PINS[k]), (pins[k].level = pins[k].safe));
}
`;
