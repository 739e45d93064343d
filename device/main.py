"""Starts the node. While an installation is not whole the prompt stays, and nothing runs that could end it half-way."""
import os

try:
    os.stat("hold")
    print("vn hold: the installation is not whole yet; the prompt stays")
except OSError:
    from vn import start

    start.run()
