// Servo pulses on pins: a pulse every 20 ms while it is attached.
#pragma once
#include "stand_in.h"

class Servo {
 public:
  uint8_t attach(int pin, int low, int high);
  void detach();
  bool attached() const { return pin >= 0; }
  void writeMicroseconds(int us);
  int readMicroseconds() const { return us; }

 private:
  int pin = -1, us = 0, low = 0, high = 32767;
};
