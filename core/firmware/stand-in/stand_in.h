// What firmware finds on a small board, without the board: pins, clock, timer tick, serial line, bus. Time goes by only as
// main.cpp says, or with the real clock. Pins and pulses are taken down as they change.
#pragma once
#include <stdint.h>
#include <stdlib.h>

#define STAND_IN 1
#if defined(__AVR__)
#include <avr/pgmspace.h>
// Ports, as platforms for such boards have them.
extern volatile uint8_t standInPorts[8];
#define digitalPinToPort(pin) ((pin) / 8)
#define digitalPinToBitMask(pin) (1 << (pin) % 8)
#define portOutputRegister(port) (&standInPorts[(port) & 7])
#define portInputRegister(port) (&standInPorts[(port) & 7])
#else
#define PROGMEM
#define PSTR(text) (text)
#define pgm_read_byte(at) (*(const uint8_t*)(at))
#define pgm_read_word(at) (*(const uint16_t*)(at))
#define pgm_read_dword(at) (*(const uint32_t*)(at))
#define pgm_read_float(at) (*(const float*)(at))
#endif

enum { LOW = 0, HIGH = 1 };
enum { INPUT = 0, OUTPUT = 1, INPUT_PULLUP = 2 };

uint32_t micros();
void noInterrupts();
void interrupts();
void pinMode(uint8_t pin, uint8_t mode);
void digitalWrite(uint8_t pin, uint8_t level);
int digitalRead(uint8_t pin);
int analogRead(uint8_t pin);
void analogWrite(uint8_t pin, int duty);
void standInTick(uint32_t everyMicros, void (*tick)());

struct StandInSerial {
  void begin(uint32_t baud);
  int available();
  int read();
  int availableForWrite();
  void write(uint8_t byte);
};
extern StandInSerial Serial;

void setup();
void loop();
