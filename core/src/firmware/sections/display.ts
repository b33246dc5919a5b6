/** What generated firmware that has a text display shows on it: a letter at a time, without ever waiting. */
export const display = String.raw`
// ── Text display: two or four rows, behind an eight-bit port of the bus ─────────────────────────────────────────────────

// Lines of the port: which register, (read), enable, light, and four of data: the high half of a byte first.
static const uint8_t DISPLAY_LETTER = 1, DISPLAY_ENABLE = 4, DISPLAY_LIGHT = 8;
// How it begins, by four data lines: three times eight lines, then four; two rows, off, empty, to the right, on.
static const uint8_t DISPLAY_BEGIN[] PROGMEM = {0x30, 0x30, 0x30, 0x20, 0x28, 0x08, 0x01, 0x06, 0x0c};
static const uint8_t DISPLAY_HALVES = 4, DISPLAY_STEPS = 9;
static const uint32_t DISPLAY_FIRST = 50000, DISPLAY_EACH = 5000, DISPLAY_GONE = 1000000;
static const uint32_t MADE_FOR_MS = 4000;

static char displayWants[DISPLAY_ROWS][DISPLAY_COLUMNS], displaySeen[DISPLAY_ROWS][DISPLAY_COLUMNS];
static uint8_t displayStep, displayRow, displayColumn = DISPLAY_COLUMNS;
static uint32_t displayAt = DISPLAY_FIRST;

static inline void displayHalf(uint8_t lines) {
  Wire.write(lines);
  Wire.write(lines | DISPLAY_ENABLE);
  Wire.write(lines);
}
// False: it is not there.
static bool displaySend(uint8_t byte, bool whole, uint8_t letter) {
  Wire.beginTransmission(DISPLAY_ADDRESS);
  displayHalf((uint8_t)((byte & 0xf0) | DISPLAY_LIGHT | letter));
  if (whole) displayHalf((uint8_t)((byte << 4 & 0xf0) | DISPLAY_LIGHT | letter));
  return Wire.endTransmission() == 0;
}
static void displayWords(uint8_t row, const char* flash) {
  uint8_t n = 0;
  for (char letter; n < DISPLAY_COLUMNS && (letter = (char)pgm_read_byte(flash)); flash++) displayWants[row][n++] = letter;
  while (n < DISPLAY_COLUMNS) displayWants[row][n++] = ' ';
}
static void displayAll() {
  displayWords(0, DISPLAY_NAME);
  const char* state = isStopped() ? PSTR("input stops it") : stateWords();
#if USES_COUNTED
  if (isAnyLost()) state = PSTR("a motor is stuck");
#endif
#if DISPLAY_ROWS > 2
  displayWords(1, state);
  displayWords(2, DISPLAY_MADE_FOR);
  displayWords(3, PSTR(""));
#else
  displayWords(1, micros() / 1000 < MADE_FOR_MS ? DISPLAY_MADE_FOR : state);
#endif
}
// One letter, or one place for the next, or one step of its beginning.
static bool displayNext() {
  if (displayStep < DISPLAY_STEPS) {
    const uint8_t byte = pgm_read_byte(&DISPLAY_BEGIN[displayStep]);
    const bool whole = displayStep++ >= DISPLAY_HALVES;
    for (uint8_t row = 0; row < DISPLAY_ROWS; row++)
      for (uint8_t column = 0; column < DISPLAY_COLUMNS; column++) displaySeen[row][column] = ' ';
    displayColumn = DISPLAY_COLUMNS;
    return displaySend(byte, whole, 0);
  }
  displayAll();
  for (uint8_t row = 0; row < DISPLAY_ROWS; row++)
    for (uint8_t column = 0; column < DISPLAY_COLUMNS; column++) {
      if (displayWants[row][column] == displaySeen[row][column]) continue;
      if (row != displayRow || column != displayColumn) {
        displayRow = row;
        displayColumn = column;
        const uint8_t place = (uint8_t)((row & 1 ? 0x40 : 0) + (row & 2 ? DISPLAY_COLUMNS : 0) + column);
        return displaySend((uint8_t)(0x80 | place), true, 0);
      }
      displayColumn++;
      displaySeen[row][column] = displayWants[row][column];
      return displaySend((uint8_t)displayWants[row][column], true, DISPLAY_LETTER);
    }
  return true;
}
static void showDisplay() {
  if ((int32_t)(micros() - displayAt) < 0) return;
  displayAt = micros() + DISPLAY_EACH;
  if (displayNext()) return;
  // It may be plugged in later.
  displayStep = 0;
  displayAt = micros() + DISPLAY_GONE;
}
`;

/** What stands on the display for the state of each kind of program. */
const words = (states: Readonly<Record<string, string>>): string => String.raw`
static const char* stateWords() {
${Object.entries(states)
  .map(([state, said]) => `  if (${state}) return PSTR("${said}");`)
  .join('\n')}
  return PSTR("");
}
`;
export const playerWords = words({
  'state == WAITING': 'motors off',
  'state == WAKING': 'coming on',
  'state == STANDING': 'at its end',
  '!isWanted && !pace': 'stopped',
  '!isWanted': 'slowing down',
  'state == PLAYING': 'playing',
  'state == GOING_THERE': 'going there',
  'state == HOMING': 'homing',
});
export const moverWords = words({
  'state == WAITING': 'motors off',
  'state == WAKING': 'coming on',
  'state == HOLDING': 'held',
  'state == FOLLOWING': 'follows',
});
export const bridgeWords = words({
  'state == ASLEEP': 'motors off',
  'state == HALTED': 'halted',
  'state == AWAKE': 'driven',
});
