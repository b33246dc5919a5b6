/** What a bridge is told to move: motors on and off, seeks, counts anew, and points with all that they are held to. */
export const moves = String.raw`
// ── Bridge: what moves, and what it is held to ────────────────────────────────────────────────────────────────────────

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
#if USES_TICK
  for (uint8_t n = 0; n < saidCount; n++) {
    const uint8_t k = motorAt(said[n].channel);
    countFrom(k, said[n].value);
    stand(k, (Value)said[n].value);
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
`;
