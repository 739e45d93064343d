"""Everything the runtime asks of the board. The rest of the package touches no hardware module."""
import errno
import gc
import os
import select
import socket
import time

import machine
import network

ticks_ms = time.ticks_ms
ticks_us = time.ticks_us
ticks_diff = time.ticks_diff
ticks_add = time.ticks_add
sleep_us = time.sleep_us

_IN_PROGRESS = (errno.EINPROGRESS, errno.EAGAIN, 119)


def output(number, level):
    """An output that has its level from the first moment on."""
    return machine.Pin(number, machine.Pin.OUT, value=level)


def input(number, pull):
    pulls = {"up": machine.Pin.PULL_UP, "down": machine.Pin.PULL_DOWN}
    return machine.Pin(number, machine.Pin.IN, pulls.get(pull))


def open_drain(number):
    return machine.Pin(number, machine.Pin.OPEN_DRAIN, value=1)


class Adc:
    """Voltage at a pin, V. `full_v` is what the highest code stands for where the chip brings no calibration of its own."""

    def __init__(self, number, full_v):
        self.adc = machine.ADC(machine.Pin(number))
        try:
            self.adc.atten(machine.ADC.ATTN_11DB)
        except AttributeError:
            pass
        self.scale = full_v / 65535
        self.measured = getattr(self.adc, "read_uv", None)

    def volts(self):
        return self.measured() / 1e6 if self.measured else self.adc.read_u16() * self.scale

    def share(self):
        """Share of the highest code, for what follows the supply."""
        return self.adc.read_u16() / 65535


class Pwm:
    """An output that is on for a share of each period, off at first."""

    def __init__(self, number, hz, active_low):
        self.active_low = active_low
        self.pwm = machine.PWM(machine.Pin(number, machine.Pin.OUT, value=1 if active_low else 0))
        self.pwm.freq(int(hz))
        self.share(0)

    def share(self, share):
        duty = int(share * 65535 + 0.5)
        self.pwm.duty_u16(65535 - duty if self.active_low else duty)


class Servo:
    def __init__(self, number):
        self.pwm = machine.PWM(machine.Pin(number))
        self.pwm.freq(50)

    def pulse(self, us):
        """Pulse length fifty times a second, µs; 0 lets the servo go."""
        self.pwm.duty_u16(int(us * 65535 / 20000 + 0.5))


def lamps(number, count):
    import neopixel

    return neopixel.NeoPixel(machine.Pin(number), count)


def on_edge(pin, both, handler):
    """Calls `handler()` at each falling edge, or at each edge."""
    pin.irq(lambda _: handler(), machine.Pin.IRQ_FALLING | (machine.Pin.IRQ_RISING if both else 0))


_buses = {}


def i2c(sda, scl):
    """One bus per pair of pins, in software: any pins of any chip."""
    if (sda, scl) not in _buses:
        _buses[(sda, scl)] = machine.SoftI2C(scl=machine.Pin(scl), sda=machine.Pin(sda), freq=100000)
    return _buses[(sda, scl)]


def uart(number, baud, rx, tx):
    if tx is None:
        return machine.UART(number, baudrate=baud, rx=machine.Pin(rx), rxbuf=256)
    return machine.UART(number, baudrate=baud, rx=machine.Pin(rx), tx=machine.Pin(tx), rxbuf=256)


def forget_buses():
    """Before another file's drivers start: pins may change their work."""
    _buses.clear()


def pulse_us(pin, level, timeout_us):
    """Length of the next pulse of this level, µs; negative when none came in time."""
    return machine.time_pulse_us(pin, level, timeout_us)


def one_wire(number):
    import onewire

    return onewire.OneWire(machine.Pin(number))


def aes_cbc_open(key, iv, data):
    import cryptolib

    return cryptolib.aes(key, 2, iv).decrypt(data)


def restart_reason():
    names = {
        getattr(machine, "PWRON_RESET", -1): "power",
        getattr(machine, "HARD_RESET", -2): "reset button",
        getattr(machine, "WDT_RESET", -3): "watchdog",
        getattr(machine, "DEEPSLEEP_RESET", -4): "woke",
        getattr(machine, "SOFT_RESET", -5): "program",
    }
    return names.get(machine.reset_cause(), "unknown")


def free_bytes():
    gc.collect()
    return gc.mem_free()


def utc():
    """Seconds since 1970 as the board's clock has them; only right once it has been set."""
    base = 946684800 if time.gmtime(0)[0] == 2000 else 0
    return time.time() + base


def deep_sleep(ms):
    """Ends the program; the board starts anew when the time is over."""
    machine.deepsleep(ms)


class Wifi:
    def __init__(self, host, address):
        try:
            network.hostname(host[:32])
        except (AttributeError, ValueError):
            pass
        self.station = network.WLAN(network.STA_IF)
        self.address = address

    def start(self, name, password):
        self.station.active(True)
        if self.address:
            a = self.address
            self.station.ifconfig((a["ip"], a["mask"], a["gateway"], a["dns"]))
        self.station.connect(name, password)

    def leave(self):
        try:
            self.station.disconnect()
        except OSError:
            pass

    def up(self):
        return self.station.isconnected()

    def dbm(self):
        try:
            return self.station.status("rssi")
        except (OSError, ValueError):
            return None


class Tcp:
    """A connection that never waits: `state` is connecting, open or closed."""

    def __init__(self, host, port):
        self.state = "connecting"
        self.sock = None
        try:
            address = socket.getaddrinfo(host, port)[0][-1]
            self.sock = socket.socket()
            self.sock.setblocking(False)
            self.sock.connect(address)
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
                return
        self.poll = select.poll()
        self.poll.register(self.sock, select.POLLOUT | select.POLLIN)

    def check(self):
        """True once the connection stands."""
        if self.state == "connecting":
            for _, event in self.poll.poll(0):
                if event & (select.POLLERR | select.POLLHUP):
                    self.close()
                elif event & select.POLLOUT:
                    self.state = "open"
        return self.state == "open"

    def send(self, data):
        """Bytes taken, which may be fewer than given."""
        try:
            return self.sock.send(data) or 0
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
            return 0

    def receive(self, limit):
        """Up to `limit` bytes, or None when there are none now."""
        try:
            data = self.sock.recv(limit)
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
            return None
        if not data:
            self.close()
            return None
        return data

    def close(self):
        self.state = "closed"
        if self.sock:
            try:
                self.sock.close()
            except OSError:
                pass
            self.sock = None


def exists(path):
    try:
        os.stat(path)
        return True
    except OSError:
        return False


def size(path):
    return os.stat(path)[6]


def replace(source, target):
    """Puts `source` in the place of `target`. Where the file system cannot do it in one move, `target` goes first."""
    try:
        os.rename(source, target)
    except OSError:
        os.remove(target)
        os.rename(source, target)


def read(path):
    with open(path, "rb") as f:
        return f.read()


def write(path, data):
    with open(path, "wb") as f:
        f.write(data)


def remove(path):
    if exists(path):
        os.remove(path)
