/** The only place of generated firmware that knows a family of boards. */
export const adapter = String.raw`
// ── Adapter: the only part that knows this family of boards ─────────────────────────────────────────────────────────

#if USES_PULSE_PINS
#include <Servo.h>
#endif
#if USES_BUS
#include <Wire.h>
#endif

#if USES_TICK
// Pins that the timer's tick writes or reads: by their port where the platform says which that is.
#if defined(portOutputRegister)
struct FastPin {
  volatile uint8_t* port;
  uint8_t mask;
};
#else
struct FastPin {
  uint8_t pin;
};
#endif
// All axes share one tick.
static inline void tick();
#if defined(STAND_IN)
static inline void beginTick() { standInTick(1000 / TICKS_PER_MS, tick); }
static inline void pollTick() {}
#elif defined(__AVR__)
// Timer 2 at an eighth of 16 MHz.
static inline void beginTick() {
  noInterrupts();
  TCCR2A = _BV(WGM21);
  TCCR2B = _BV(CS21);
  OCR2A = (uint8_t)(2000 / TICKS_PER_MS - 1);
  TIMSK2 = _BV(OCIE2A);
  interrupts();
}
ISR(TIMER2_COMPA_vect) { tick(); }
static inline void pollTick() {}
#else
// Another family: give tick() to a timer here. Until then the loop calls it, as evenly as the loop is fast.
static uint32_t lastTick;
static inline void beginTick() { lastTick = micros(); }
static inline void pollTick() {
  while (micros() - lastTick >= 1000 / TICKS_PER_MS) {
    lastTick += 1000 / TICKS_PER_MS;
    tick();
  }
}
#endif
#endif

static inline bool isHigh(uint8_t pin) { return digitalRead(pin) == HIGH; }
static inline void setPin(uint8_t pin, bool high) { digitalWrite(pin, high ? HIGH : LOW); }
// The level first, then an output: the pin is never at the other level in between.
static inline void makeOutput(uint8_t pin, bool high) {
  setPin(pin, high);
  pinMode(pin, OUTPUT);
}

#if USES_TICK
#if defined(portOutputRegister)
static inline FastPin fastPin(uint8_t pin) {
  return {portOutputRegister(digitalPinToPort(pin)), (uint8_t)digitalPinToBitMask(pin)};
}
// Only where nothing interrupts.
static inline void setFast(const FastPin* at, bool high) {
  if (high) *at->port |= at->mask;
  else *at->port &= (uint8_t)~at->mask;
}
#else
static inline FastPin fastPin(uint8_t pin) { return {pin}; }
static inline void setFast(const FastPin* at, bool high) { setPin(at->pin, high); }
#endif
#endif

#if USES_COUNTED
#if defined(portOutputRegister)
static inline FastPin fastInput(uint8_t pin) {
  return {portInputRegister(digitalPinToPort(pin)), (uint8_t)digitalPinToBitMask(pin)};
}
static inline bool readFast(const FastPin* at) { return (*at->port & at->mask) != 0; }
#else
static inline FastPin fastInput(uint8_t pin) { return {pin}; }
static inline bool readFast(const FastPin* at) { return isHigh(at->pin); }
#endif
// 0 to 255.
static inline void setDuty(uint8_t pin, uint8_t duty) { analogWrite(pin, duty); }
#endif

#if USES_DRIVER
// Registers of a 12-bit PWM driver: mode 0, its divider 254, four for each channel from 6 on. Its clock makes 25 counts a µs
// divided by divider + 1, and 4096 of them are one frame.
static inline void driverWrite(uint8_t address, uint8_t where, uint8_t value) {
  Wire.beginTransmission(address);
  Wire.write(where);
  Wire.write(value);
  Wire.endTransmission();
}
static inline void driverBegin(uint8_t address) {
  driverWrite(address, 0, 0x10);  // asleep: the divider may be set
  driverWrite(address, 254, DRIVER_DIVIDER);
  // All channels off before it wakes.
  Wire.beginTransmission(address);
  Wire.write(253);
  Wire.write(0x10);
  Wire.endTransmission();
  driverWrite(address, 0, 0x20);  // awake, registers count up by themselves
}
// A pulse of so many µs from the beginning of each frame; 0: none.
static inline void driverPulse(uint8_t address, uint8_t channel, uint16_t us) {
  const uint16_t end = (uint16_t)(((uint32_t)us * 25 + (DRIVER_DIVIDER + 1) / 2) / (DRIVER_DIVIDER + 1));
  Wire.beginTransmission(address);
  Wire.write((uint8_t)(6 + 4 * channel));
  Wire.write(0);
  Wire.write(0);
  Wire.write((uint8_t)(end & 255));
  Wire.write((uint8_t)(us ? end >> 8 : 0x10));
  Wire.endTransmission();
}
#endif

// The raw count of a sensor: of an analogue pin, or of an encoder on the bus, behind a port of a multiplexer. False: it says nothing.
static inline bool readCount(uint8_t pin, uint8_t address, uint8_t port, int16_t* count) {
#if USES_BUS
  if (address != NO_PIN) {
    if (port != NO_PIN) {
      Wire.beginTransmission(MULTIPLEXER);
      Wire.write((uint8_t)(1 << port));
      Wire.endTransmission();
    }
    Wire.beginTransmission(address);
    Wire.write(ENCODER_REGISTER);
    if (Wire.endTransmission() != 0 || Wire.requestFrom(address, (uint8_t)2) != 2) return false;
    const int high = Wire.read();
    *count = (int16_t)((high & 15) << 8 | Wire.read());
    return true;
  }
#else
  (void)address;
  (void)port;
#endif
  *count = (int16_t)analogRead(pin);
  return true;
}
`;
