// Runs firmware without its board.
//
// By orders, one a line on its input; time is simulated and what happens comes out, a line each:
//   > TEXT          this line comes in at the serial port (its line feed is added)
//   . MICROS        so much time goes by
//   pin PIN LEVEL   what holds a pin at a level; - lets go of it
//   switch PIN LEVEL STEP DIRECTION WAY COUNT  from then on the pin is at that level while the steps on a step pin since (up while the
//                     direction is high) have come to COUNT or beyond it, upwards (WAY 1) or downwards (−1); at the other until then
//   follow PIN SERVO US FROM PER1000 TURN  from then on an analogue pin reads FROM and PER1000 thousandths of a count for each µs that the pulse
//                     on pin SERVO is over US; beginning again after TURN counts (0: never)
//   turning DUTY DIRECTION FIRST SECOND MOST TAU LOAD  a motor with an encoder hangs on these pins: its tracks FIRST and SECOND go by what the
//                     duty and the level of its direction make of it, MOST counts a second at full duty, TAU ms until most of that is there, less
//                     what LOAD (counts a second) takes away. Said again, it goes on where it is with the new figures.
//   shaft DUTY      where the motor of that duty pin really is, as `MICROS shaft DUTY COUNTS`
//   analog PIN COUNT  what an analogue pin reads; ten times its number until then
//   absent ADDRESS  nobody answers at that address of the bus; present ADDRESS: somebody does again, as at first
//   bytes HEX       these bytes come in at the serial port; from then on what it says is no lines
//   out             what has come out of it since, as `= HEX`
//   baud NUMBER     from then on bytes take their time either way, and the port holds 64 of each; what comes beyond is lost
//   room BYTES      so many bytes the port takes by now; - for any
// Out: `MICROS lost 0 BYTES` where the port had no room, `< TEXT` a line from the serial port; `MICROS mode PIN MODE`, `MICROS level PIN LEVEL`, `MICROS pulse PIN US` (0: none),
// `MICROS duty PIN DUTY`, `MICROS bus ADDRESS BYTES…` and, after each order, `.`.
//
// With `live`: real time, its input and output are the serial line itself.
#include <poll.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>
#include <algorithm>
#include <cmath>
#include <deque>
#include <string>
#include <vector>
#include "Servo.h"
#include "Wire.h"

static bool isLive = false, isBinary = false;
static uint64_t now = 0;
static uint64_t realMicros() {
  timespec at;
  clock_gettime(CLOCK_MONOTONIC, &at);
  return (uint64_t)at.tv_sec * 1000000 + (uint64_t)at.tv_nsec / 1000;
}

static int modes[256], levels[256], held[256];
struct Switch {
  int pin, level, step, direction, way;
  long count, at;
};
static std::vector<Switch> switches;
static void stepped(int pin) {
  for (Switch& each : switches)
    if (each.step == pin) {
      each.at += levels[each.direction] ? 1 : -1;
      held[each.pin] = (each.at - each.count) * each.way >= 0 ? each.level : 1 - each.level;
    }
}
struct Turning {
  int duty, direction, first, second;
  double most, tau, load, speed, at;
};
static std::vector<Turning> turnings;
static int duties[256];
static void showTracks(const Turning& each) {
  const long phase = (long)std::floor(each.at) & 3;
  held[each.first] = phase == 1 || phase == 2;
  held[each.second] = phase >= 2;
}
static void turn(double ms) {
  for (Turning& each : turnings) {
    const double wish = each.most * duties[each.duty] / 255 * (levels[each.direction] ? 1 : -1) - each.load;
    each.speed += (wish - each.speed) * std::min(1.0, ms / each.tau);
    each.at += each.speed * ms / 1000;
    showTracks(each);
  }
}
static std::deque<uint8_t> come;
static std::string gone;
// Bytes on the wire: the port takes one in so many µs, holds so many, and sends as slowly.
static std::deque<uint8_t> wire, sending;
static double byteMicros = 0, nextIn = 0, nextOut = 0;
static const size_t PORT = 64;
static unsigned long lost = 0;
static long room = -1;

static int pulses[256];
static void note(const char* what, int pin, int value) {
  if (!strcmp(what, "pulse")) pulses[pin & 255] = value;
  if (!isLive) printf("%llu %s %d %d\n", (unsigned long long)now, what, pin, value);
}

uint32_t micros() { return (uint32_t)now; }
void noInterrupts() {}
void interrupts() {}
void pinMode(uint8_t pin, uint8_t mode) {
  note("mode", pin, mode);
  modes[pin] = mode;
}
void digitalWrite(uint8_t pin, uint8_t level) {
  if (levels[pin] != level) note("level", pin, level);
  const bool rises = level && !levels[pin];
  levels[pin] = level;
  if (rises) stepped(pin);
}
int digitalRead(uint8_t pin) {
  if (modes[pin] == OUTPUT) return levels[pin];
  return held[pin] >= 0 ? held[pin] : modes[pin] == INPUT_PULLUP ? HIGH : LOW;
}
void analogWrite(uint8_t pin, int duty) {
  if (duties[pin] != duty) note("duty", pin, duty);
  duties[pin] = duty;
}
static int analogs[256];
struct Follow {
  int pin, servo;
  long us, from, per1000, turn;
};
static std::vector<Follow> follows;
int analogRead(uint8_t pin) {
  for (const Follow& each : follows)
    if (each.pin == pin) {
      const long count = each.from + (pulses[each.servo] - each.us) * each.per1000 / 1000;
      return (int)(each.turn ? (count % each.turn + each.turn) % each.turn : count);
    }
  return analogs[pin] < 0 ? pin * 10 : analogs[pin];
}

static uint32_t tickEvery = 0;
static void (*tickNow)() = nullptr;
void standInTick(uint32_t everyMicros, void (*tick)()) {
  tickEvery = everyMicros;
  tickNow = tick;
}

StandInSerial Serial;
void StandInSerial::begin(uint32_t) {}
int StandInSerial::available() { return (int)come.size(); }
int StandInSerial::read() {
  if (come.empty()) return -1;
  const int byte = come.front();
  come.pop_front();
  return byte;
}
int StandInSerial::availableForWrite() {
  if (byteMicros > 0) return (int)(PORT - 1 - sending.size());
  return room < 0 ? 63 : (int)room;
}
void StandInSerial::write(uint8_t byte) {
  if (room > 0) room--;
  if (byteMicros > 0) sending.push_back(byte);
  else gone.push_back((char)byte);
}

uint8_t Servo::attach(int at, int from, int to) {
  pin = at;
  low = from;
  high = to;
  writeMicroseconds(us);
  note("pulse", pin, us);
  return 1;
}
void Servo::detach() {
  note("pulse", pin, 0);
  pin = -1;
}
void Servo::writeMicroseconds(int wanted) {
  const int next = wanted < low ? low : wanted > high ? high : wanted;
  if (pin >= 0 && next != us) note("pulse", pin, next);
  us = next;
}

StandInWire Wire;
static uint8_t busAddress;
static std::vector<uint8_t> busBytes;
static bool isAbsent[128];
void StandInWire::begin() {}
void StandInWire::setClock(uint32_t) {}
void StandInWire::beginTransmission(uint8_t address) {
  busAddress = address;
  busBytes.clear();
}
void StandInWire::write(uint8_t byte) { busBytes.push_back(byte); }
uint8_t StandInWire::endTransmission() {
  if (isAbsent[busAddress & 127]) return 2;
  // Reading a sensor is no event.
  if (isLive || busBytes.size() < 2) return 0;
  printf("%llu bus %d", (unsigned long long)now, busAddress);
  for (const uint8_t byte : busBytes) printf(" %d", byte);
  printf("\n");
  return 0;
}
static uint8_t busLeft = 0;
uint8_t StandInWire::requestFrom(uint8_t, uint8_t count) { return busLeft = count; }
int StandInWire::read() { return busLeft ? busLeft-- : -1; }

// Time goes by: ticks of the timer, and the loop every 100 µs.
static const uint32_t LOOP = 100;
static uint64_t looped = 0, ticked = 0;
static void liveUpTo(uint64_t then) {
  while (now < then) {
    uint64_t next = looped + LOOP;
    if (tickEvery && ticked + tickEvery < next) next = ticked + tickEvery;
    if (next > then) next = then;
    turn((double)(next - now) / 1000);
    now = next;
    for (; byteMicros > 0 && !wire.empty() && nextIn <= (double)now; nextIn += byteMicros) {
      if (come.size() < PORT) come.push_back(wire.front());
      else lost++;
      wire.pop_front();
    }
    if (wire.empty() && nextIn < (double)now) nextIn = (double)now;
    for (; byteMicros > 0 && !sending.empty() && nextOut <= (double)now; nextOut += byteMicros) {
      gone.push_back((char)sending.front());
      sending.pop_front();
    }
    if (sending.empty() && nextOut < (double)now) nextOut = (double)now;
    if (tickEvery && now >= ticked + tickEvery) {
      ticked += tickEvery;
      tickNow();
    }
    if (now >= looped + LOOP) {
      looped += LOOP;
      loop();
    }
  }
}

static void live() {
  uint64_t begun = realMicros();
  uint8_t bytes[256];
  for (;;) {
    pollfd at = {0, POLLIN, 0};
    if (poll(&at, 1, 1) > 0) {
      const ssize_t count = read(0, bytes, sizeof bytes);
      if (count <= 0) return;
      for (ssize_t k = 0; k < count; k++) come.push_back(bytes[k]);
    }
    liveUpTo(realMicros() - begun);
    if (gone.empty()) continue;
    if (write(1, gone.data(), gone.size()) < 0) return;
    gone.clear();
  }
}

int main(int count, char** words) {
  for (int& level : held) level = -1;
  for (int& value : analogs) value = -1;
  isLive = count > 1 && !strcmp(words[1], "live");
  setup();
  if (isLive) {
    live();
    return 0;
  }
  char order[512];
  const auto tell = [] {
    size_t from = 0;
    for (size_t end; !isBinary && (end = gone.find('\n', from)) != std::string::npos; from = end + 1)
      printf("< %s\n", gone.substr(from, end - from).c_str());
    gone.erase(0, from);
    printf(".\n");
  };
  loop();
  tell();
  while (fgets(order, sizeof order, stdin)) {
    long pin, level;
    unsigned long long micros;
    if (order[0] == '>' && order[1] == ' ') {
      for (const char* letter = order + 2; *letter; letter++) (byteMicros > 0 ? wire : come).push_back((uint8_t)*letter);
      if (byteMicros <= 0) loop();
    } else if (sscanf(order, ". %llu", &micros) == 1)
      liveUpTo(now + micros);
    else if (sscanf(order, "pin %ld %ld", &pin, &level) == 2)
      held[pin & 255] = level != 0;
    else if (!strncmp(order, "follow ", 7)) {
      Follow each = {};
      if (sscanf(order, "follow %d %d %ld %ld %ld %ld", &each.pin, &each.servo, &each.us, &each.from, &each.per1000, &each.turn) == 6)
        follows.push_back(each);
    } else if (!strncmp(order, "switch ", 7)) {
      Switch each = {};
      if (sscanf(order, "switch %d %d %d %d %d %ld", &each.pin, &each.level, &each.step, &each.direction, &each.way, &each.count) == 6) {
        held[each.pin] = -each.count * each.way >= 0 ? each.level : 1 - each.level;
        switches.push_back(each);
      }
    } else if (!strncmp(order, "turning ", 8)) {
      Turning each = {};
      if (sscanf(order, "turning %d %d %d %d %lf %lf %lf", &each.duty, &each.direction, &each.first, &each.second, &each.most, &each.tau, &each.load) == 7) {
        for (size_t k = turnings.size(); k-- > 0;)
          if (turnings[k].duty == each.duty) {
            each.at = turnings[k].at;
            each.speed = turnings[k].speed;
            turnings.erase(turnings.begin() + (long)k);
          }
        turnings.push_back(each);
        showTracks(each);
      }
    } else if (sscanf(order, "shaft %ld", &pin) == 1) {
      for (const Turning& each : turnings)
        if (each.duty == pin) printf("%llu shaft %ld %ld\n", (unsigned long long)now, pin, (long)std::floor(each.at));
    } else if (sscanf(order, "pin %ld -", &pin) == 1)
      held[pin & 255] = -1;
    else if (!strncmp(order, "bytes ", 6)) {
      unsigned byte;
      isBinary = true;
      for (const char* at = order + 6; sscanf(at, "%2x", &byte) == 1; at += 2) come.push_back((uint8_t)byte);
    } else if (sscanf(order, "absent %ld", &pin) == 1)
      isAbsent[pin & 127] = true;
    else if (sscanf(order, "present %ld", &pin) == 1)
      isAbsent[pin & 127] = false;
    else if (!strncmp(order, "out", 3)) {
      printf("= ");
      for (const char byte : gone) printf("%02x", (uint8_t)byte);
      printf("\n");
      gone.clear();
    } else if (sscanf(order, "analog %ld %ld", &pin, &level) == 2)
      analogs[pin & 255] = (int)level;
    else if (sscanf(order, "baud %ld", &level) == 1) {
      // A byte has ten bits on the wire.
      byteMicros = 1e7 / (double)level;
      nextIn = nextOut = (double)now;
    } else if (sscanf(order, "room %ld", &level) == 1)
      room = level;
    else if (!strncmp(order, "room -", 6))
      room = -1;
    if (lost) {
      printf("%llu lost 0 %lu\n", (unsigned long long)now, lost);
      lost = 0;
    }
    tell();
  }
  return 0;
}
