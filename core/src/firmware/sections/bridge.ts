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

/** The bridge: a board of protocol 2 (docs/protocol.md). The simulated board of the core does the same. */
export const bridge = String.raw`
// ── Bridge: protocol 2 ──────────────────────────────────────────────────────────────────────────────────────────────

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

static void here(bool onlyInputs, const bool* changed) {
  static const uint8_t LEVELS = 8;
  uint8_t k = 0;
  const uint8_t all = MOTOR_COUNT + FREE_PIN_COUNT;
  while (k < all && !onlyInputs) {
    begin(PSTR("here"));
    number((long)clockMs);
    putWord(state == ASLEEP ? PSTR(" asleep") : state == AWAKE ? PSTR(" awake") : PSTR(" halted"));
    uint8_t length = (uint8_t)(textLength + 2);
    const uint8_t first = k;
    for (; k < all; k++) {
      if (k >= MOTOR_COUNT && pins[k - MOTOR_COUNT].use != RELAY) continue;
      const uint16_t channel = k < MOTOR_COUNT ? channelAt(k) : pgm_read_byte(&FREE_PINS[k - MOTOR_COUNT]);
      const long value = k < MOTOR_COUNT ? motors[k].value : pins[k - MOTOR_COUNT].level;
      uint8_t more = pairLength(channel, value);
      more = (uint8_t)(more + 1);
#if USES_STEPS
      if (k < MOTOR_COUNT && counts(k)) more = (uint8_t)(more + 1 + pairLength(channel, countOf(k)));
#endif
      if (k > first && length + more + SEAL > MAX_LINE) break;
      length = (uint8_t)(length + more);
      pair(channel, value);
    }
    putWord(PSTR(" |"));
#if USES_STEPS
    for (uint8_t j = first; j < k && j < MOTOR_COUNT; j++)
      if (counts(j)) pair(channelAt(j), countOf(j));
#endif
    end();
  }
  uint8_t told = 0;
  for (uint8_t n = 0; n != FREE_PIN_COUNT; n++) {
    if (pins[n].use != INPUT_PIN || (changed && !changed[n])) continue;
    if (!told) {
      begin(PSTR("here"));
      number((long)clockMs);
      putWord(state == ASLEEP ? PSTR(" asleep |") : state == AWAKE ? PSTR(" awake |") : PSTR(" halted |"));
    }
    pair(pgm_read_byte(&FREE_PINS[n]), pins[n].level);
    if (++told < LEVELS) continue;
    end();
    told = 0;
  }
  if (told) end();
}
static void sayFound(const Seek& seek) {
  begin(PSTR("found"));
  number(seek.id);
  putWord(seek.hit ? PSTR(" hit") : PSTR(" end"));
  for (uint8_t n = 0; n < seek.count; n++) pair(channelAt(seek.motor[n]), seek.base[n]);
  end();
}
static void sense() {
  static const uint8_t COUNTS = 6;
  uint8_t told = 0;
  for (uint8_t n = 0; n < sensorCount; n++) {
    if (!sensors[n].isKnown) continue;
    if (!told) {
      begin(PSTR("sensed"));
      number((long)clockMs);
    }
    pair((uint16_t)sensors[n].id, sensors[n].count);
    if (++told < COUNTS) continue;
    end();
    told = 0;
  }
  if (told) end();
}
static void report() {
  here(false, nullptr);
  sense();
  for (uint8_t n = 0; n < SEEKS; n++)
    if (seeks[n].phase == Seek::FOUND) sayFound(seeks[n]);
}

// One sensor a millisecond, one after the other.
static void readSensor() {
  if (!sensorCount) return;
  nextSensor = (uint8_t)((nextSensor + 1) % sensorCount);
  Sensor& sensor = sensors[nextSensor];
  sensor.isKnown = readCount(sensor.pin, sensor.address, sensor.port, &sensor.count);
}

// What was found of this motor is no longer where it is.
static void forget(uint8_t k) {
  for (uint8_t n = 0; n < SEEKS; n++) {
    if (seeks[n].phase != Seek::FOUND) continue;
    for (uint8_t j = 0; j < seeks[n].count; j++)
      if (seeks[n].motor[j] == k) seeks[n].phase = Seek::FREE;
  }
}
static bool isSought(uint8_t k) {
  for (uint8_t n = 0; n < SEEKS; n++)
    for (uint8_t j = 0; seeks[n].phase == Seek::RUNNING && j < seeks[n].count; j++)
      if (seeks[n].motor[j] == k) return true;
  return false;
}
static bool seeksAny() {
  for (uint8_t n = 0; n < SEEKS; n++)
    if (seeks[n].phase == Seek::RUNNING) return true;
  return false;
}

// Once a millisecond.
static void minds() {
  if (!watchMs || state == ASLEEP) return;
  silentMs++;
  if (silentMs == watchMs) freeze();
  if (offMs >= 0 && silentMs >= watchMs + offMs) fallAsleep();
}
static void followQueue() {
  if (state != AWAKE) return;
  if (!isPlaying) {
    if (!pointCount) return standStill();
    isPlaying = true;
    doneMs = 0;
    for (uint8_t k = 0; k < MOTOR_COUNT; k++) channels[k].from = channels[k].to = motors[k].value;
    for (uint8_t n = 0; n < points[pointFrom].count; n++) {
      const Item& item = items[(itemFrom + n) % ITEM_COUNT];
      if (item.index < MOTOR_COUNT) channels[item.index].to = item.value;
    }
  }
  const Point& point = points[pointFrom];
  doneMs++;
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (!isSought(k)) motors[k].value = (Value)(channels[k].from + share((long)channels[k].to - channels[k].from, doneMs, point.ms));
  if (doneMs < point.ms) return;
  // What switches does so as the point is reached.
  for (uint8_t n = 0; n < point.count; n++) {
    const Item& item = items[(itemFrom + n) % ITEM_COUNT];
    if (item.index < MOTOR_COUNT || item.index == NONE) continue;
    const uint8_t pin = (uint8_t)(item.index - MOTOR_COUNT);
    setPin(pgm_read_byte(&FREE_PINS[pin]), (pins[pin].level = (uint8_t)item.value));
  }
  itemFrom = (uint16_t)((itemFrom + point.count) % ITEM_COUNT);
  itemCount = (uint16_t)(itemCount - point.count);
  pointFrom = (uint8_t)((pointFrom + 1) % POINT_COUNT);
  pointCount--;
  isPlaying = false;
}
static void readInputs() {
  bool changed[FREE_PIN_COUNT + 1];
  bool any = false;
  for (uint8_t n = 0; n != FREE_PIN_COUNT; n++) {
    changed[n] = false;
    if (pins[n].use != INPUT_PIN) continue;
    const uint8_t level = isHigh(pgm_read_byte(&FREE_PINS[n])) ? 1 : 0;
    changed[n] = level != pins[n].level;
    pins[n].level = level;
    any = any || changed[n];
  }
  if (any && reportMs) here(true, changed);
}
static void followSeeks() {
  for (uint8_t n = 0; n < SEEKS; n++) {
    Seek& seek = seeks[n];
    if (seek.phase != Seek::RUNNING) continue;
    seek.hit = seek.pin != NONE && pins[seek.pin].level == seek.level;
    if (!seek.hit && seek.doneMs < seek.ms) {
      seek.doneMs++;
      for (uint8_t j = 0; j < seek.count; j++) {
        const long perS = seek.perS[j];
        motors[seek.motor[j]].value = (Value)(seek.base[j] + perS / 1000 * seek.doneMs + share(perS % 1000, seek.doneMs % 1000, 1000) + perS % 1000 * (seek.doneMs / 1000));
      }
      continue;
    }
    for (uint8_t j = 0; j < seek.count; j++) {
      seek.base[j] = motors[seek.motor[j]].value;
      stand(seek.motor[j], seek.base[j]);
    }
    seek.phase = Seek::FOUND;
    sayFound(seek);
  }
}
static void everyMs() {
  clockMs++;
  minds();
  followQueue();
  readInputs();
  followSeeks();
  readSensor();
  for (uint8_t k = 0; k < MOTOR_COUNT; k++)
    if (motors[k].isOn) tell(k);
  if (reportMs && ++sinceReport >= reportMs) {
    sinceReport = 0;
    report();
  }
}

// Values of the order that is read.
struct Said {
  uint16_t channel;
  long value;
};
static Said said[28];
static uint8_t saidCount;
static bool isSaidTwice() {
  for (uint8_t a = 0; a < saidCount; a++)
    for (uint8_t b = 0; b < a; b++)
      if (said[a].channel == said[b].channel) return true;
  return false;
}
// The rest of the line as values; *goesOn (where there may be one): a + ends it.
static bool readPairs(bool* goesOn) {
  saidCount = 0;
  while (at) {
    char* word = nextWord();
    if (goesOn && !at && word[0] == '+' && !word[1]) {
      *goesOn = true;
      return true;
    }
    if (saidCount == sizeof said / sizeof *said || !pairOf(word, &said[saidCount].channel, &said[saidCount].value)) return false;
    saidCount++;
  }
  return true;
}
static const char* checkValue(uint8_t k, long value) {
  if (!channels[k].hasBounds) return PSTR("no-bounds");
  return value < channels[k].low || value > channels[k].high ? PSTR("bounds") : nullptr;
}
static const char* checkSaid() {
  if (isSaidTwice()) return PSTR("twice");
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (k == NONE) return PSTR("channel");
    const char* why = checkValue(k, said[n].value);
    if (why) return why;
  }
  return nullptr;
}
static const char* checkOn() {
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (k != NONE && !motors[k].isOn) return PSTR("asleep");
  }
  return nullptr;
}
// Why channels are not free to be moved or counted anew: off, or something moves them.
static const char* mayMove() {
  if (state != AWAKE) return PSTR("asleep");
  if (pointCount) return PSTR("moving");
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (k != NONE && isSought(k)) return PSTR("moving");
  }
  return checkOn();
}

static const char* wake() {
  const char* why = checkSaid();
  if (why) return why;
  const bool joins = state == AWAKE;
  if (!joins) {
    empty();
    wanted = 0;
  }
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    const bool keeps = joins && motors[k].isOn;
    if (!keeps) stand(k, (Value)said[n].value);
    motorOn(k, motors[k].value);
  }
  state = AWAKE;
  return nullptr;
}
// Motors off, one by one: those that stand, and are not told to go anywhere.
static const char* letGo(const uint16_t* list, uint8_t count) {
  if (state != AWAKE) return PSTR("asleep");
  for (uint8_t n = 0; n < count; n++)
    if (motorAt(list[n]) == NONE) return PSTR("channel");
  for (uint8_t n = 0; n < count; n++) {
    const uint8_t k = motorAt(list[n]);
    if (isSought(k)) return PSTR("moving");
    for (uint16_t j = 0; j < itemCount; j++) {
      const Item& item = items[(itemFrom + j) % ITEM_COUNT];
      if (item.index == k && item.value != motors[k].value) return PSTR("moving");
    }
  }
  for (uint8_t n = 0; n < count; n++) motorOff(motorAt(list[n]));
  return nullptr;
}
static const char* seekNow(long id, uint8_t pin, uint8_t level, long ms) {
  if (id <= soughtId) return nullptr;
  if (ms < 1 || ms > LONGEST_SEEK || !saidCount || saidCount > SOUGHT) return PSTR("duration");
  if (pin != NONE && pins[pin].use != INPUT_PIN) return PSTR("channel");
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (k == NONE || channels[k].turns) return PSTR("channel");
  }
  const char* why = mayMove();
  if (why) return why;
  if (isSaidTwice()) return PSTR("twice");
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (!channels[k].hasBounds) return PSTR("no-bounds");
    const int64_t end = (int64_t)motors[k].value * 1000 + (int64_t)said[n].value * ms;
    if (end < (int64_t)channels[k].low * 1000 || end > (int64_t)channels[k].high * 1000) return PSTR("bounds");
  }
  for (uint8_t n = 0; n < saidCount; n++)
    if (labs(said[n].value) > channels[motorAt(said[n].channel)].perS) return PSTR("speed");
  uint8_t free = 0;
  while (free < SEEKS && seeks[free].phase == Seek::RUNNING) free++;
  if (free == SEEKS) return PSTR("moving");
  for (uint8_t n = 0; n < SEEKS; n++)
    if (seeks[n].phase == Seek::FREE) free = n;
  soughtId = id;
  for (uint8_t n = 0; n < saidCount; n++) forget(motorAt(said[n].channel));
  Seek& seek = seeks[free];
  seek.phase = Seek::RUNNING;
  seek.id = id;
  seek.pin = pin;
  seek.level = level;
  seek.ms = ms;
  seek.doneMs = 0;
  seek.count = saidCount;
  for (uint8_t n = 0; n < saidCount; n++) {
    seek.motor[n] = motorAt(said[n].channel);
    seek.base[n] = motors[seek.motor[n]].value;
    seek.perS[n] = said[n].value;
  }
  return nullptr;
}
static const char* zero() {
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    if (k == NONE || !counts(k)) return PSTR("channel");
  }
  const char* why = mayMove();
  if (!why) why = checkSaid();
  if (why) return why;
#if USES_STEPS
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    stand(k, (Value)said[n].value);
    countFrom(k, said[n].value);
    forget(k);
  }
#endif
  return nullptr;
}

static const char* checkPoint(uint8_t ms, uint16_t count) {
  if (ms < 1 || ms > MAX_QUEUED_MS) return PSTR("duration");
  if (seeksAny()) return PSTR("moving");
  if (begunTwice) return PSTR("twice");
  const uint16_t first = (uint16_t)(itemFrom + itemCount);
  for (uint16_t a = 0; a < count; a++)
    for (uint16_t b = 0; b < a; b++)
      if (items[(first + a) % ITEM_COUNT].index != NONE && items[(first + a) % ITEM_COUNT].index == items[(first + b) % ITEM_COUNT].index)
        return PSTR("twice");
  for (uint16_t n = 0; n < count; n++) {
    const Item& item = items[(first + n) % ITEM_COUNT];
    if (item.index == NONE) return PSTR("channel");
    if (item.index >= MOTOR_COUNT) {
      if (item.value != 0 && item.value != 1) return PSTR("bounds");
      continue;
    }
    const char* why = checkValue(item.index, item.value);
    if (why) return why;
  }
  for (uint16_t n = 0; n < count; n++) {
    const Item& item = items[(first + n) % ITEM_COUNT];
    if (item.index < MOTOR_COUNT && !motors[item.index].isOn) return PSTR("asleep");
  }
  for (uint16_t n = 0; n < count; n++) {
    const Item& item = items[(first + n) % ITEM_COUNT];
    if (item.index >= MOTOR_COUNT) continue;
    const Channel& channel = channels[item.index];
    // Both ends are whole numbers: one more than the speed comes to is rounding.
    const long most = channel.perS / 1000 * ms + channel.perS % 1000 * ms / 1000 + 1;
    if (labs((long)item.value - channel.last) > most) return PSTR("speed");
  }
  return nullptr;
}
static void takeWhole(long seq, uint16_t count) {
  const uint8_t ms = begunMs;
  const char* why = checkPoint(ms, count);
  if (why) {
    // A point that is wrong ends the motion: hold, and wait to be woken again.
    empty();
    state = HALTED;
    return refuse(PSTR("point"), seq, why);
  }
  if (queuedMs() + ms > MAX_QUEUED_MS || pointCount == POINT_COUNT) return refuse(PSTR("point"), seq, PSTR("queue-full"));
  points[(pointFrom + pointCount++) % POINT_COUNT] = {ms, (uint8_t)count};
  for (uint16_t n = 0; n < count; n++) {
    const Item& item = items[(itemFrom + itemCount++) % ITEM_COUNT];
    if (item.index >= MOTOR_COUNT) continue;
    channels[item.index].last = item.value;
    forget(item.index);
  }
  wanted++;
  took(seq);
}
static void takePoint(bool isFirst, long seq, long second, bool goesOn) {
  if (state != AWAKE) return refuse(PSTR("point"), seq, PSTR("asleep"));
  if (seq < wanted) return took(seq);
  const bool fits = isFirst || (isBegun && begunParts == second);
  isBegun = false;
  if (seq != wanted || !fits) return refuse(PSTR("point"), wanted, PSTR("gap"));
  if (isFirst) {
    begunMs = (uint8_t)(second > 255 ? 255 : second);
    begunParts = 0;
    begunTwice = false;
    begunCount = 0;
  }
  begunTwice = begunTwice || isSaidTwice();
  if (itemCount + begunCount + saidCount > ITEM_COUNT) return refuse(PSTR("point"), seq, PSTR("queue-full"));
  for (uint8_t n = 0; n < saidCount; n++) {
    Item& item = items[(itemFrom + itemCount + begunCount++) % ITEM_COUNT];
    item.index = motorAt(said[n].channel);
    if (item.index == NONE) {
      const uint8_t pin = pinAt(said[n].channel);
      if (pin != NONE && pins[pin].use == RELAY) item.index = (uint8_t)(MOTOR_COUNT + pin);
    }
    // What a value has no room for is outside of any bounds.
    item.value = (Value)(said[n].value > VALUE_MOST ? VALUE_MOST : said[n].value < -VALUE_MOST ? -VALUE_MOST : said[n].value);
  }
  begunParts++;
  if (!goesOn) return takeWhole(seq, begunCount);
  isBegun = true;
  begin(PSTR("more"));
  number(seq);
  end();
}

static void done(const char* what, long n) {
  begin(PSTR("done "));
  putWord(what);
  number(n);
  end();
}
static void answer(const char* what, long n, const char* why) {
  if (why) refuse(what, n, why);
  else done(what, n);
}
// Whether an order is a new one; a late copy is refused.
static bool isNew(const char* what, long n) {
  silentMs = 0;
  if (n <= ordered) {
    refuse(what, n, PSTR("stale"));
    return false;
  }
  ordered = n;
  return true;
}
static const char* usePin(uint16_t channel, Use use, uint8_t* index) {
  const uint8_t k = channel < 256 ? pinAt(channel) : NONE;
  if (k == NONE || (pins[k].use != UNUSED && pins[k].use != use)) return PSTR("channel");
  *index = k;
  return nullptr;
}

// Does what the line says; false where it makes no sense.
static bool follow() {
  char* word = nextWord();
  long n;
  if (!wholeOf(nextWord(), 9, false, &n)) return false;
  if (isWord(word, PSTR("point")) || isWord(word, PSTR("more"))) {
    const bool isFirst = word[0] == 'p';
    long second;
    bool goesOn = false;
    if (!wholeOf(nextWord(), 9, false, &second) || !readPairs(&goesOn)) return false;
    silentMs = 0;
    takePoint(isFirst, n, second, goesOn);
    return true;
  }
  if (isWord(word, PSTR("hello"))) {
    if (at) return false;
    silentMs = 0;
    ordered = n;
    soughtId = 0;
    for (uint8_t k = 0; k < SEEKS; k++)
      if (seeks[k].phase == Seek::FOUND) seeks[k].phase = Seek::FREE;
    greet();
    return true;
  }
  if (isWord(word, PSTR("halt"))) {
    if (at) return false;
    silentMs = 0;
    if (n > ordered) ordered = n;
    freeze();
    done(PSTR("halt"), n);
    return true;
  }
  if (isWord(word, PSTR("sleep"))) {
    if (at) return false;
    if (!isNew(PSTR("sleep"), n)) return true;
    fallAsleep();
    done(PSTR("sleep"), n);
    return true;
  }
  if (isWord(word, PSTR("wake"))) {
    if (!readPairs(nullptr)) return false;
    if (isNew(PSTR("wake"), n)) answer(PSTR("wake"), n, wake());
    return true;
  }
  if (isWord(word, PSTR("zero"))) {
    if (!readPairs(nullptr)) return false;
    if (isNew(PSTR("zero"), n)) answer(PSTR("zero"), n, zero());
    return true;
  }
  if (isWord(word, PSTR("letgo"))) {
    uint16_t list[28];
    uint8_t count = 0;
    while (at)
      if (count == 28 || !channelOf(nextWord(), &list[count++])) return false;
    if (isNew(PSTR("letgo"), n)) answer(PSTR("letgo"), n, letGo(list, count));
    return true;
  }
  if (isWord(word, PSTR("bounds"))) {
    uint16_t where;
    long low, high, perS, still = 0;
    if (!channelOf(nextWord(), &where) || !wholeOf(nextWord(), 8, true, &low) || !wholeOf(nextWord(), 8, true, &high) || !wholeOf(nextWord(), 8, true, &perS)) return false;
    const bool turns = at;
    if (turns && (!wholeOf(nextWord(), 8, true, &still) || at)) return false;
    if (!isNew(PSTR("bounds"), n)) return true;
    const uint8_t k = motorAt(where);
    const char* why = nullptr;
    if (low > high || perS < 1 || (turns && (still < low || still > high))) why = PSTR("bounds");
    else if (k == NONE) why = PSTR("channel");
    // Wider than the motor itself is: refused, whoever asks.
    else if (low < lowOf(k) || high > highOf(k)) why = PSTR("bounds");
    else {
      channels[k].hasBounds = true;
      channels[k].turns = turns;
      channels[k].low = (Value)low;
      channels[k].high = (Value)high;
      channels[k].still = (Value)still;
      channels[k].perS = perS;
    }
    answer(PSTR("bounds"), n, why);
    return true;
  }
  if (isWord(word, PSTR("report"))) {
    long ms;
    if (!wholeOf(nextWord(), 9, false, &ms) || at) return false;
    if (!isNew(PSTR("report"), n)) return true;
    reportMs = ms;
    sinceReport = 0;
    done(PSTR("report"), n);
    return true;
  }
  if (isWord(word, PSTR("watch"))) {
    long ms, later = -1;
    if (!wholeOf(nextWord(), 9, false, &ms)) return false;
    const char* off = nextWord();
    if (!off || at || (!(off[0] == '-' && !off[1]) && !wholeOf(off, 9, false, &later))) return false;
    if (!isNew(PSTR("watch"), n)) return true;
    watchMs = ms;
    offMs = later;
    done(PSTR("watch"), n);
    return true;
  }
  if (isWord(word, PSTR("output"))) {
    uint16_t where;
    long safe;
    if (!channelOf(nextWord(), &where) || !wholeOf(nextWord(), 1, false, &safe) || safe > 1 || at) return false;
    if (!isNew(PSTR("output"), n)) return true;
    uint8_t k = 0;
    const char* why = usePin(where, RELAY, &k);
    if (!why) {
      const bool keeps = pins[k].use == RELAY && state != ASLEEP;
      pins[k].use = RELAY;
      pins[k].safe = (uint8_t)safe;
      if (!keeps) pins[k].level = (uint8_t)safe;
      makeOutput((uint8_t)where, pins[k].level);
    }
    answer(PSTR("output"), n, why);
    return true;
  }
  if (isWord(word, PSTR("input"))) {
    uint16_t where;
    if (!channelOf(nextWord(), &where)) return false;
    const char* pull = nextWord();
    if (!pull || at) return false;
    const bool up = isWord(pull, PSTR("up"));
    if (!up && !isWord(pull, PSTR("down")) && !isWord(pull, PSTR("none"))) return false;
    if (!isNew(PSTR("input"), n)) return true;
    uint8_t k = 0;
    const char* why = usePin(where, INPUT_PIN, &k);
    if (!why) {
      pinMode((uint8_t)where, up ? INPUT_PULLUP : INPUT);
      if (pins[k].use != INPUT_PIN) pins[k].level = up;
      pins[k].use = INPUT_PIN;
    }
    answer(PSTR("input"), n, why);
    return true;
  }
  if (isWord(word, PSTR("sensor"))) {
    long id, small[2] = {NONE, NONE};
    uint16_t where;
    if (!wholeOf(nextWord(), 9, false, &id) || !channelOf(nextWord(), &where)) return false;
    for (uint8_t k = 0; k < 2; k++) {
      const char* text = nextWord();
      if (!text || (!(text[0] == '-' && !text[1]) && !wholeOf(text, 3, false, &small[k]))) return false;
    }
    if (at) return false;
    if (!isNew(PSTR("sensor"), n)) return true;
    uint8_t k = 0, slot = 0;
    const char* why = usePin(where, SENSOR_PIN, &k);
    while (slot < sensorCount && sensors[slot].id != id) slot++;
    if (!why && slot == SENSOR_COUNT) why = PSTR("channel");
    if (!why) {
      if (slot == sensorCount) sensorCount++;
      pins[k].use = SENSOR_PIN;
      sensors[slot] = {id, (uint8_t)where, (uint8_t)small[0], (uint8_t)small[1], false, 0};
    }
    answer(PSTR("sensor"), n, why);
    return true;
  }
  if (isWord(word, PSTR("seek"))) {
    long id, ms, level = 0;
    uint16_t where = 0;
    if (!wholeOf(nextWord(), 9, false, &id)) return false;
    char* until = nextWord();
    if (!until) return false;
    const bool isTimed = until[0] == '-' && !until[1];
    if (!isTimed && (!pairOf(until, &where, &level) || level < 0 || level > 1)) return false;
    if (!wholeOf(nextWord(), 9, false, &ms) || !readPairs(nullptr)) return false;
    if (!isNew(PSTR("seek"), n)) return true;
    const uint8_t pin = isTimed ? NONE : where < 256 ? pinAt(where) : NONE;
    answer(PSTR("seek"), n, !isTimed && pin == NONE && id > soughtId && ms >= 1 && ms <= LONGEST_SEEK ? PSTR("channel") : seekNow(id, pin, (uint8_t)level, ms));
    return true;
  }
  return false;
}

static void listen() {
  while (Serial.available() > 0) {
    const char letter = (char)Serial.read();
    if (letter != '\n') {
      if (heardLength < MAX_LINE - 1) heard[heardLength++] = letter;
      else heardTooMuch = true;
      continue;
    }
    if (heardLength && heard[heardLength - 1] == '\r') heardLength--;
    if (heardLength || heardTooMuch) {
      at = heard;
      if (heardTooMuch || !unseal() || !follow()) refuse(PSTR("line"), wanted, PSTR("garbled"));
    }
    heardLength = 0;
    heardTooMuch = false;
  }
}

void setup() {
  beginPins();
  Serial.begin(BAUD);
  greet();
  begun();
}
`;
