"""The same stream over a serial line: a pseudo-terminal with the bench's controller at its other end."""

import os
import pty
import select
import threading
import tty
import unittest

from rezept.bench.controller import Controller, Setup
from rezept.formats.gcode import program_parts
from rezept.link.port import LinkError, SerialPort
from rezept.link.stream import Part, Stream
from tests.made import planned, trial_document


class SerialLineTest(unittest.TestCase):
    def setUp(self):
        self.master, slave = pty.openpty()
        # Bytes as they are: control characters must not be taken as the terminal's own.
        tty.setraw(slave)
        self.name = os.ttyname(slave)
        self.over = threading.Event()
        self.controller = Controller(Setup())
        thread = threading.Thread(target=self.work, daemon=True)
        thread.start()
        self.addCleanup(os.close, slave)
        self.addCleanup(os.close, self.master)
        self.addCleanup(thread.join, 5)
        self.addCleanup(self.over.set)

    def work(self):
        while not self.over.is_set():
            if select.select([self.master], [], [], 0.02)[0]:
                self.controller.take(os.read(self.master, 1024))
            self.controller.advance(self.controller.clock + 1e9)
            for answer in self.controller.answers:
                os.write(self.master, answer.encode() + b"\n")
            self.controller.answers.clear()

    def test_a_plate_over_a_serial_line(self):
        plate = planned(trial_document())
        port = SerialPort(self.name)
        self.addCleanup(port.close)
        parts = [Part(part.name, part.lines) for part in program_parts(plate)]
        self.assertEqual(Stream(port, parts).run().state, "done")
        burned = sum(stretch.length_mm for stretch in self.controller.stretches if stretch.beam > 0)
        self.assertAlmostEqual(burned, 12 * 40, places=2)

    def test_a_line_that_is_not_there(self):
        with self.assertRaisesRegex(LinkError, "cannot be reached"):
            SerialPort("/dev/ttyNothing9")


if __name__ == "__main__":
    unittest.main()
