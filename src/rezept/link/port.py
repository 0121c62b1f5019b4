"""The wire: a serial line or a TCP connection, by its pySerial URL."""

from __future__ import annotations

import os
import select
import time
from typing import Any, Protocol

from rezept.core.errors import RezeptError


class LinkError(RezeptError):
    """The machine cannot be reached, or the connection to it broke."""


class Port(Protocol):
    """What the stream needs of a wire."""

    def read(self, wait_s: float) -> bytes:
        """What has come, after waiting so long for something at most; raises `LinkError` where the wire is gone."""

    def write(self, data: bytes) -> None: ...

    def close(self) -> None: ...


class SerialPort:
    """A wire opened by pySerial: ``/dev/ttyUSB0``, ``COM3`` or ``socket://host:port``."""

    def __init__(self, url: str, baud: int = 115_200) -> None:
        import serial

        self._lost: tuple[type[Exception], ...] = (serial.SerialException, OSError)
        try:
            # A device is opened for this program alone, where the system can do that; a socket knows no such thing.
            alone = {} if "://" in url or os.name != "posix" else {"exclusive": True}
            self._port: Any = serial.serial_for_url(url, baudrate=baud, timeout=0, write_timeout=5, **alone)
        except (*self._lost, ValueError) as error:
            raise LinkError(
                f"The machine at {url} cannot be reached. Is it on, and nobody else connected to it?"
            ) from error
        try:
            self._handle: int | None = self._port.fileno()
        except (AttributeError, OSError):
            self._handle = None

    def read(self, wait_s: float) -> bytes:
        try:
            if self._handle is None:
                time.sleep(min(wait_s, 0.005))
            elif not select.select([self._handle], [], [], wait_s)[0]:
                return b""
            return bytes(self._port.read(4096))
        except self._lost as error:
            raise LinkError("The connection to the machine was lost.") from error

    def write(self, data: bytes) -> None:
        try:
            self._port.write(data)
        except self._lost as error:
            raise LinkError("The connection to the machine was lost.") from error

    def close(self) -> None:
        self._port.close()
