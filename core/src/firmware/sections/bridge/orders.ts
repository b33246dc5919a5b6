/** Lines that a bridge follows, and its answers. */
export const orders = String.raw`
// ── Bridge: lines and answers ─────────────────────────────────────────────────────────────────────────────────────────

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
