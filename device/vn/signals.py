"""One running signal per entry of the node file: its driver, its conditioning, and when its value is to be said."""
import json

from vn import hw
from vn.chain import Chain

_UNSAID = object()


def start(spec):
    """Loads the driver this entry names and starts it."""
    module = __import__("vn.drivers." + spec["driver"], None, None, ("Driver",))
    if "levels" in spec:
        return module.Signal(spec)
    driver = module.Driver
    if spec.get("warmUpS"):
        from vn import warming
        driver = warming.Driver(spec, driver)
    else:
        driver = driver(spec)
    if spec["access"] == "event":
        from vn.events import Event

        return Event(spec, driver)
    return (Reading if spec["access"] == "reading" else Output)(spec, driver)


def _due(said_at, now, every_s):
    return every_s > 0 and (said_at is None or hw.ticks_diff(now, said_at) >= every_s * 1000)


class Signal:
    def __init__(self, spec, driver):
        self.slug, self.driver = spec["slug"], driver
        # Drivers that make the board wait take turns, so that no step waits for two of them.
        self.slow = getattr(driver, "SLOW", False)
        self.trouble = None
        self.wakes = spec.get("wakes")
        self.said = self.said_at = None

    def failed(self, now):
        """Its driver has broken down in this step: what it last knew no longer counts."""

    def stop(self):
        self.driver.stop()


class Reading(Signal):
    retained, qos = True, 0

    def __init__(self, spec, driver):
        super().__init__(spec, driver)
        how = spec["publish"]
        self.every_s, self.change = how["everyS"], how.get("change", 0)
        self.decimals, self.factor = how.get("decimals", 0), how.get("factor", 1)
        make = Chain
        if "curve" in spec["chain"]:
            from vn.curve import Chain as make
        self.chain = make(spec["chain"])
        self.value = self.said = _UNSAID
        self.read_at = None

    def step(self, now):
        """The JSON text to publish now, or None."""
        got = self.driver.step(now)
        if got is not None:
            since = max(0, hw.ticks_diff(now, self.read_at)) / 1000 if self.read_at is not None else 0
            self.read_at = now
            self.value = self.chain.step(got[0], since)
        return self._say(now)

    def _say(self, now):
        if self.value is _UNSAID or not (self._moved() or _due(self.said_at, now, self.every_s)):
            return None
        self.said, self.said_at = self.value, now
        return self.text()

    def failed(self, now):
        self.chain.forget()
        self.value = None
        return self._say(now)

    def known(self):
        """True once there has been a measurement, whatever came of it."""
        return self.value is not _UNSAID

    def now_is(self):
        return None if self.value is _UNSAID else self.value

    def _moved(self):
        if self.said is _UNSAID or (self.value is None) != (self.said is None):
            return True
        return self.value is not None and self.change > 0 and abs(self.value - self.said) >= self.change

    def text(self):
        if self.value is _UNSAID or self.value is None:
            return "null"
        text = "%.*f" % (self.decimals, self.value * self.factor)
        return text[1:] if text.startswith("-") and not text.strip("-0.") else text


class Output(Signal):
    """What is switched, and what is told to be so: said when it changes, and again now and then."""

    retained, qos = True, 1

    def __init__(self, spec, driver):
        super().__init__(spec, driver)
        self.every_s = spec["publish"]["everyS"]
        self.at_start, self.follows = spec.get("atStart", "off"), spec.get("follows")
        self.said = _UNSAID

    def step(self, now):
        self.driver.step(now)
        return self.tell(now)

    def tell(self, now):
        state = self.driver.state()
        if state == self.said and not _due(self.said_at, now, self.every_s):
            return None
        self.said, self.said_at = state, now
        return self.text()

    def known(self):
        return True

    def now_is(self):
        return self.driver.state()

    def text(self):
        state = self.driver.state()
        if state is None:
            return "null"
        if isinstance(state, bool):
            return "true" if state else "false"
        return json.dumps(state) if isinstance(state, str) else "%g" % state
