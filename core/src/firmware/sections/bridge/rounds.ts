/** What a bridge does each millisecond: it looks after its line, plays its queue, seeks, reads and reports. */
export const rounds = String.raw`
// ── Bridge: each millisecond ──────────────────────────────────────────────────────────────────────────────────────────

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
#if USES_TICK
      if (k < MOTOR_COUNT && counts(k)) more = (uint8_t)(more + 1 + pairLength(channel, countOf(k)));
#endif
      if (k > first && length + more + SEAL > MAX_LINE) break;
      length = (uint8_t)(length + more);
      pair(channel, value);
    }
    putWord(PSTR(" |"));
#if USES_TICK
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
#if USES_COUNTED
  // One that does not follow is off; the others stay where they are.
  if (isAnyLost()) freeze();
#endif
  if (reportMs && ++sinceReport >= reportMs) {
    sinceReport = 0;
    report();
  }
}
`;
