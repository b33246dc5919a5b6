// A two-wire bus on which everything answers.
#pragma once
#include "stand_in.h"

struct StandInWire {
  void begin();
  void setClock(uint32_t hertz);
  void beginTransmission(uint8_t address);
  void write(uint8_t byte);
  uint8_t endTransmission();
  uint8_t requestFrom(uint8_t address, uint8_t count);
  int read();
};
extern StandInWire Wire;
