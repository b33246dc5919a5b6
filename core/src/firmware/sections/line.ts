/** Lines that generated firmware says: sealed by a checksum, without ever waiting. */
export const saying = String.raw`
// ── Lines that go out: words, single spaces, a star and a checksum; nothing waits ──────────────────────────────────────────

static const uint8_t MAX_LINE = 120;  // longest line, its end included
static const uint8_t SEAL = 6;

// Of the polynomial 0x1021, eight bits at once.
static inline uint16_t crcOf(uint16_t crc, char letter) {
  uint8_t mixed = (uint8_t)(crc >> 8 ^ (uint8_t)letter);
  mixed = (uint8_t)(mixed ^ mixed >> 4);
  return (uint16_t)(crc << 8 ^ (uint16_t)mixed << 12 ^ (uint16_t)mixed << 5 ^ mixed);
}

// What goes out is kept until the port has room; a line that has no room is left out whole, and asked for again.
static char going[OUT_BYTES];
static uint16_t goingFrom, goingCount;
static char text[MAX_LINE];
static uint8_t textLength;
static uint16_t textCrc;

static inline void put(char letter) {
  if (textLength < MAX_LINE - SEAL) {
    text[textLength++] = letter;
    textCrc = crcOf(textCrc, letter);
  }
}
static inline void putWord(const char* flash) {
  for (char letter; (letter = (char)pgm_read_byte(flash)); flash++) put(letter);
}
static inline void begin(const char* flash) {
  textLength = 0;
  textCrc = 0xffff;
  putWord(flash);
}
static inline uint8_t digitsOf(long value, char* digits) {
  uint8_t n = 0;
  unsigned long rest = value < 0 ? 0UL - (unsigned long)value : (unsigned long)value;
  for (; rest > 65535; rest /= 10) digits[n++] = (char)('0' + rest % 10);
  // Short numbers are divided several times as fast.
  uint16_t few = (uint16_t)rest;
  do digits[n++] = (char)('0' + few % 10);
  while (few = (uint16_t)(few / 10), few);
  if (value < 0) digits[n++] = '-';
  return n;
}
static inline void putNumber(long value) {
  char digits[12];
  for (uint8_t n = digitsOf(value, digits); n;) put(digits[--n]);
}
static inline void number(long value) {
  put(' ');
  putNumber(value);
}
// A channel as the line writes it: the board behind this one before the point, its pin after it.
static inline void putChannel(uint16_t channel) {
  if (channel >= 256) {
    putNumber(channel / 256);
    put('.');
  }
  putNumber(channel % 256);
}
static inline void pair(uint16_t channel, long value) {
  put(' ');
  putChannel(channel);
  put(':');
  putNumber(value);
}
static inline uint8_t pairLength(uint16_t channel, long value) {
  char digits[12];
  uint8_t n = (uint8_t)(2 + digitsOf(channel % 256, digits) + digitsOf(value, digits));
  if (channel >= 256) n = (uint8_t)(n + 1 + digitsOf(channel / 256, digits));
  return n;
}
static inline void end() {
  if (goingCount + textLength + SEAL > OUT_BYTES) return;
  text[textLength++] = '*';
  for (uint8_t shift = 16; shift;) {
    shift = (uint8_t)(shift - 4);
    text[textLength++] = "0123456789abcdef"[textCrc >> shift & 15];
  }
  text[textLength++] = '\n';
  uint16_t to = (uint16_t)(goingFrom + goingCount);
  if (to >= OUT_BYTES) to = (uint16_t)(to - OUT_BYTES);
  goingCount = (uint16_t)(goingCount + textLength);
  for (uint8_t n = 0; n < textLength; n++) {
    going[to] = text[n];
    if (++to == OUT_BYTES) to = 0;
  }
}
// What it is, and for which rig it was made.
static inline void introduce(const char* flash) {
  begin(PSTR("board 2 "));
  putWord(flash);
  number(CHANNEL_COUNT);
  number(BUFFER_BYTES);
  putWord(MADE_FOR);
  end();
}
static inline void sendOut() {
  while (goingCount && Serial.availableForWrite() > 0) {
    Serial.write((uint8_t)going[goingFrom]);
    if (++goingFrom == OUT_BYTES) goingFrom = 0;
    goingCount--;
  }
}
`;
/** Lines that generated firmware hears, and their words. */
export const hearing = String.raw`
// ── Lines that come in ──────────────────────────────────────────────────────────────────────────────────────────────

// One line at a time.
static char heard[MAX_LINE];
static uint8_t heardLength;
static bool heardTooMuch;

static inline int8_t hexOf(char letter) {
  if (letter >= '0' && letter <= '9') return (int8_t)(letter - '0');
  if (letter >= 'a' && letter <= 'f') return (int8_t)(letter - 'a' + 10);
  if (letter >= 'A' && letter <= 'F') return (int8_t)(letter - 'A' + 10);
  return -1;
}
// Takes the seal off the line that was heard; false where it is none or a wrong one.
static inline bool unseal() {
  if (heardLength < 5 || heard[heardLength - 5] != '*') return false;
  uint16_t said = 0;
  for (uint8_t n = 4; n; n--) {
    const int8_t digit = hexOf(heard[heardLength - n]);
    if (digit < 0) return false;
    said = (uint16_t)(said << 4 | digit);
  }
  uint16_t crc = 0xffff;
  heardLength = (uint8_t)(heardLength - 5);
  for (uint8_t n = 0; n < heardLength; n++) crc = crcOf(crc, heard[n]);
  heard[heardLength] = 0;
  return crc == said;
}

// Words of the line, one after the other; each is ended by a zero.
static char* at;
static inline char* nextWord() {
  if (!at) return nullptr;
  char* word = at;
  while (*at && *at != ' ') at++;
  if (*at) *at++ = 0;
  else at = nullptr;
  return word;
}
static inline bool isWord(const char* word, const char* flash) {
  for (;; word++, flash++) {
    const char letter = (char)pgm_read_byte(flash);
    if (*word != letter) return false;
    if (!letter) return true;
  }
}
// Whole numbers of so many digits at most; false for anything else.
static inline bool wholeOf(const char* word, uint8_t most, bool mayBeNegative, long* value) {
  if (!word) return false;
  const bool negative = mayBeNegative && *word == '-';
  if (negative) word++;
  uint8_t n = 0;
  long sum = 0;
  for (; *word; word++) {
    if (*word < '0' || *word > '9' || ++n > most) return false;
    sum = sum * 10 + (*word - '0');
  }
  *value = negative ? -sum : sum;
  return n > 0;
}
static inline bool channelOf(char* word, uint16_t* channel) {
  if (!word) return false;
  uint16_t board = 0;
  for (char* dot = word; *dot; dot++) {
    if (*dot != '.') continue;
    *dot = 0;
    long n;
    if (*word == '0' || !wholeOf(word, 2, false, &n)) return false;
    board = (uint16_t)n;
    word = dot + 1;
    break;
  }
  long pin;
  if (!wholeOf(word, 3, false, &pin) || pin > 255) return false;
  *channel = (uint16_t)(board * 256 + pin);
  return true;
}
static inline bool pairOf(char* word, uint16_t* channel, long* value) {
  if (!word) return false;
  for (char* colon = word; *colon; colon++) {
    if (*colon != ':') continue;
    *colon = 0;
    return channelOf(word, channel) && wholeOf(colon + 1, 8, true, value);
  }
  return false;
}
`;
