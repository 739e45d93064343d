"""One running signal per entry of the node file: its driver, its conditioning, and when its value is to be said."""
from vn import hw
from vn.chain import Chain

_UNSAID = object()


def start(spec):
    """Loads the driver this entry names and starts it."""
    driver = __import__("vn.drivers." + spec["driver"], None, None, ("Driver",)).Driver(spec)
    return {"reading": Reading, "output": Output, "state": Output, "event": Event}[spec["access"]](spec, driver)


def _due(said_at, now, every_s):
    return every_s > 0 and (said_at is None or hw.ticks_diff(now, said_at) >= every_s * 1000)


class Reading:
    retained, qos = True, 0

    def __init__(self, spec, driver):
        self.slug, self.driver, self.how = spec["slug"], driver, spec["publish"]
        self.chain = Chain(spec["chain"])
        self.value = self.said = _UNSAID
        self.said_at = self.read_at = None

    def step(self, now):
        """The JSON text to publish now, or None."""
        got = self.driver.step(now)
        if got is not None:
            since = hw.ticks_diff(now, self.read_at) / 1000 if self.read_at is not None else 0
            self.read_at = now
            self.value = self.chain.step(got[0], since)
        if self.value is _UNSAID or not (self._moved() or _due(self.said_at, now, self.how["everyS"])):
            return None
        self.said, self.said_at = self.value, now
        return self.text()

    def _moved(self):
        if self.said is _UNSAID or (self.value is None) != (self.said is None):
            return True
        return self.value is not None and self.how["change"] > 0 and abs(self.value - self.said) >= self.how["change"]

    def text(self):
        if self.value is _UNSAID or self.value is None:
            return "null"
        text = "%.*f" % (self.how["decimals"], self.value * self.how["factor"])
        return text[1:] if text.startswith("-") and not text.strip("-0.") else text

    def stop(self):
        self.driver.stop()


class Output:
    """What is switched, and what is told to be so: said when it changes, and again now and then."""

    retained, qos = True, 1

    def __init__(self, spec, driver):
        self.slug, self.driver, self.every_s = spec["slug"], driver, spec["publish"]["everyS"]
        self.said = None
        self.said_at = None

    def step(self, now):
        self.driver.step(now)
        if self.driver.state() == self.said and not _due(self.said_at, now, self.every_s):
            return None
        self.said, self.said_at = self.driver.state(), now
        return self.text()

    def text(self):
        state = self.driver.state()
        return ("true" if state else "false") if isinstance(state, bool) else "%g" % state

    def stop(self):
        self.driver.stop()


class Event:
    retained, qos = False, 1

    def __init__(self, spec, driver):
        self.slug, self.driver = spec["slug"], driver

    def step(self, now):
        got = self.driver.step(now)
        return '"%s"' % got[0] if got else None

    def text(self):
        return None

    def stop(self):
        self.driver.stop()
