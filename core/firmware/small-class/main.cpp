// How long firmware takes for its millisecond on the small class (8 bits, 16 MHz): run by a simulator of that processor, its own
// timer counts, with the ticks for steppers of that millisecond. Pins, pulses and bus do nothing here; a line of input comes in every so many milliseconds.
//
// input.h has INPUT_LINES (bytes in flash) with their INPUT_SIZES, INPUT_COUNT, FIRST_LINE_MS, LINE_EVERY_MS, COUNT_FROM_MS, MILLISECONDS, FIRST_STICK (a pin)
// and PUSHED_FROM_MS. Says `mean most`, in
// half µs, on its serial line.
#include <avr/io.h>
#include <avr/interrupt.h>
#include <avr/sleep.h>
#include "Servo.h"
#include "Wire.h"
#include "input.h"

static uint32_t now;
uint32_t micros() { return now; }
static uint8_t ticksAMs = 0;
static void (*tickNow)() = nullptr;
void standInTick(uint32_t everyMicros, void (*tick)()) {
  ticksAMs = (uint8_t)(1000 / everyMicros);
  tickNow = tick;
}
void noInterrupts() { cli(); }
void interrupts() { sei(); }
volatile uint8_t standInPorts[8];
static uint8_t levels[64];
void pinMode(uint8_t, uint8_t) {}
void digitalWrite(uint8_t pin, uint8_t level) { levels[pin & 63] = level; }
int digitalRead(uint8_t pin) { return levels[pin & 63]; }
void analogWrite(uint8_t, int) {}
// Sticks are let go at first, then pushed a little.
int analogRead(uint8_t pin) {
  if (pin >= FIRST_STICK) return now < PUSHED_FROM_MS * 1000 ? 512 : 640;
  return pin * 10 + (int)(now >> 14 & 63);
}

// A line of 115,200 baud brings so many bytes a millisecond.
static const uint8_t BYTES_A_MS = 12;
static const uint8_t* come = nullptr;
static uint16_t left;
static uint8_t room;
StandInSerial Serial;
void StandInSerial::begin(uint32_t) {}
int StandInSerial::available() { return room && left; }
int StandInSerial::read() {
  room--;
  left--;
  return pgm_read_byte(come++);
}
int StandInSerial::availableForWrite() { return 63; }
void StandInSerial::write(uint8_t) {}

uint8_t Servo::attach(int at, int from, int to) {
  pin = at;
  low = from;
  high = to;
  return 1;
}
void Servo::detach() { pin = -1; }
void Servo::writeMicroseconds(int wanted) { us = wanted < low ? low : wanted > high ? high : wanted; }

StandInWire Wire;
void StandInWire::begin() {}
void StandInWire::setClock(uint32_t) {}
void StandInWire::beginTransmission(uint8_t) {}
void StandInWire::write(uint8_t) {}
uint8_t StandInWire::endTransmission() { return 0; }
uint8_t StandInWire::requestFrom(uint8_t, uint8_t count) { return count; }
int StandInWire::read() { return 0; }

static void put(char letter) {
  while (!(UCSR0A & _BV(UDRE0))) {}
  UDR0 = (uint8_t)letter;
}
static void say(uint32_t number) {
  char digits[11];
  uint8_t n = 0;
  do digits[n++] = (char)('0' + number % 10);
  while (number /= 10);
  while (n) put(digits[--n]);
}

int main() {
  UCSR0B = _BV(TXEN0);
  TCCR1A = 0;
  TCCR1B = _BV(CS11);  // half µs
  setup();
  uint32_t sum = 0, counted = 0;
  uint16_t most = 0;
  uint16_t line = 0;
  for (uint32_t ms = 0; ms < MILLISECONDS; ms++) {
    now += 1000;
    room = BYTES_A_MS;
    if (line < INPUT_COUNT && ms >= FIRST_LINE_MS + (uint32_t)line * LINE_EVERY_MS) {
      left = pgm_read_word(&INPUT_SIZES[line]);
      come = (const uint8_t*)pgm_read_word(&INPUT_LINES[line++]);
    }
    TCNT1 = 0;
    loop();
    for (uint8_t n = 0; n < ticksAMs; n++) tickNow();
    const uint16_t took = TCNT1;
    if (ms < COUNT_FROM_MS) continue;
    sum += took;
    counted++;
    if (took > most) most = took;
  }
  say(sum / counted);
  put(' ');
  say(most);
  put('\n');
  while (!(UCSR0A & _BV(UDRE0))) {}
  for (volatile uint16_t rest = 0; rest < 20000; rest++) {}
  cli();
  sleep_enable();
  sleep_cpu();
}
