/** A script for a single-board computer: what a player does on a board, in Python's own library. */
export const script = String.raw`
import argparse
import fcntl
import os
import signal
import sys
import time

# Address of a device on the two-wire bus (the kernel's number for it).
I2C_SLAVE = 0x0703
BEAT_S = FRAME_MS / 1000
# It begins, stops and goes on over a quarter of a second, along its way.
RAMP = BEAT_S / 0.25


class Dry:
    """Says what would be written, and when; time does not pass."""

    def __init__(self):
        self.now = 0.0

    def sleep_until(self, then):
        self.now = max(self.now, then)

    def pulse(self, motor, us):
        kind, where, channel = motor[1:4]
        if kind == "pwm":
            print(f"{self.now:.3f} pwm {channel} {us * 1000}")
        else:
            print(f"{self.now:.3f} bus {where} {' '.join(str(byte) for byte in counts(channel, us))}")

    def begin(self):
        pass

    def end(self):
        pass


class Real:
    """The pulse pins of this computer (duty in ns), and 12-bit drivers on its two-wire bus."""

    def __init__(self):
        self.begun = time.monotonic()
        self.bus = None
        self.used = set()

    @property
    def now(self):
        return time.monotonic() - self.begun

    def sleep_until(self, then):
        left = then - self.now
        if left > 0:
            time.sleep(left)

    def write(self, path, value):
        with open(path, "w", encoding="ascii") as file:
            file.write(str(value))

    def begin(self):
        self.begun = time.monotonic()
        drivers = sorted({motor[2] for motor in MOTORS if motor[1] == "driver"})
        if drivers:
            self.bus = os.open(I2C_BUS, os.O_RDWR)
        for address in drivers:
            fcntl.ioctl(self.bus, I2C_SLAVE, address)
            # Asleep, its divider, all channels off, awake.
            for register, value in ((0, 0x10), (254, DRIVER_DIVIDER), (253, 0x10), (0, 0x20)):
                os.write(self.bus, bytes((register, value)))

    def pulse(self, motor, us):
        kind, where, channel = motor[1:4]
        if kind == "driver":
            fcntl.ioctl(self.bus, I2C_SLAVE, where)
            os.write(self.bus, bytes(counts(channel, us)))
            return
        folder = f"{PWM_CHIP}/pwm{channel}"
        if channel not in self.used:
            if not os.path.isdir(folder):
                self.write(f"{PWM_CHIP}/export", channel)
                time.sleep(0.2)
            self.write(f"{folder}/period", PERIOD_NS)
            self.used.add(channel)
        self.write(f"{folder}/duty_cycle", us * 1000)
        self.write(f"{folder}/enable", 1 if us else 0)

    def end(self):
        if self.bus is not None:
            os.close(self.bus)


def counts(channel, us):
    """What a driver is written for a pulse (0: none)."""
    end = (us * 25 + (DRIVER_DIVIDER + 1) // 2) // (DRIVER_DIVIDER + 1)
    return (6 + 4 * channel, 0, 0, end & 255, (end >> 8) if us else 0x10)


def held(motor, us):
    """Inside the limits of its joint, whatever it is told."""
    return min(motor[5], max(motor[4], us))


def between(frames, at):
    """Where motors are at a place between frames, whole µs."""
    k = min(int(at), len(frames) - 1)
    share = at - k
    if k + 1 >= len(frames):
        return list(frames[-1])
    return [int(a + (b - a) * share + 0.5) for a, b in zip(frames[k], frames[k + 1])]


class Stop:
    """Ctrl-C once: slow down and hold; twice: motors off."""

    def __init__(self):
        self.times = 0
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self.asked)

    def asked(self, *_):
        self.times += 1


def play(out, stop):
    now = {}

    def tell(motor, us):
        us = held(motor, us)
        if now.get(motor[0]) != us:
            now[motor[0]] = us
            out.pulse(motor, us)

    then = 0.0
    try:
        out.begin()
        # One after the other, where they are expected to stand.
        for k in POWER_ORDER:
            if stop.times:
                return
            tell(MOTORS[k], MOTORS[k][6])
            then += GAP_MS / 1000
            out.sleep_until(then)
        # Gently to the first frame (3s² − 2s³), then the frames.
        rest = [motor[6] for motor in MOTORS]
        steps = max(1, round(THERE_MS / FRAME_MS))
        there = []
        for n in range(steps):
            part = (n + 1) / steps
            smooth = part * part * (3 - 2 * part)
            there.append([round(a + (b - a) * smooth) for a, b in zip(rest, FRAMES[0])])
        for way in ([rest] + there, FRAMES):
            at, pace = 0.0, 0.0
            while at < len(way) - 1:
                pace = min(1.0, pace + RAMP) if not stop.times else pace - RAMP
                if pace <= 0:
                    break
                at = min(len(way) - 1, at + pace)
                then += BEAT_S
                # Late: time is given up, nothing is made up for.
                then = max(then, out.now)
                out.sleep_until(then)
                for motor, us in zip(MOTORS, between(way, at)):
                    tell(motor, us)
            if stop.times:
                break
        if isinstance(out, Dry) or stop.times > 1:
            return
        print("It stands. Ctrl-C lets the motors go.", file=sys.stderr)
        asked = stop.times
        while stop.times == asked:
            time.sleep(0.1)
    finally:
        for motor in MOTORS:
            if motor[0] in now:
                out.pulse(motor, 0)
        out.end()


def main():
    parser = argparse.ArgumentParser(description=f"Plays “{ROUTINE}”.")
    parser.add_argument("--go", action="store_true", help="really write; without it is only said what would be")
    play(Real() if parser.parse_args().go else Dry(), Stop())


if __name__ == "__main__":
    main()
`;
