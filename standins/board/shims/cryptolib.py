"""AES in cipher block chaining, the one mode the runtime uses."""
import binascii

import _world


def _hex(data):
    return str(binascii.hexlify(bytes(data)), "utf-8")


class aes:
    def __init__(self, key, mode, iv):
        if mode != 2 or len(key) != 16 or len(iv) != 16:
            raise ValueError("CBC with 16 bytes of key and start value")
        self.key, self.iv = key, iv

    def decrypt(self, data):
        if len(data) % 16:
            raise ValueError("whole blocks of 16 bytes")
        return binascii.unhexlify(_world.aes_open(_hex(self.key), _hex(self.iv), _hex(data)))
