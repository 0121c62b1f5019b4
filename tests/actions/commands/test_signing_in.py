"""The door: what a passphrase is worth, and how tries are counted."""

import hashlib
import threading
import unittest
from datetime import UTC, datetime, timedelta
from unittest import mock

from rezept.actions.commands import passphrases, people, signing_in
from rezept.actions.commands.passphrases import TooManyAtOnce
from rezept.actions.commands.signing_in import NotSignedIn, TooManyAttempts
from rezept.core.errors import InvalidInput
from tests.made import ShopCase

PASSPHRASE = "oak barrel"


class SecretTest(unittest.TestCase):
    def test_the_hash_is_salted_slow_and_says_its_cost_and_nothing_else(self):
        one, two = passphrases.hashed(PASSPHRASE), passphrases.hashed(PASSPHRASE)
        self.assertNotEqual(one, two)
        self.assertRegex(one, r"^scrypt\$32768\$8\$1\$[0-9a-f]{32}\$[0-9a-f]{64}$")
        kind, n, r, p, salt, key = one.split("$")
        # RFC 7914, by its parameters alone.
        again = hashlib.scrypt(
            PASSPHRASE.encode(), salt=bytes.fromhex(salt), n=int(n), r=int(r), p=int(p), dklen=32, maxmem=2**26
        )
        self.assertEqual((kind, again.hex()), ("scrypt", key))

    def test_hashes_of_before_and_of_another_cost_still_fit(self):
        for cost, words in (((2**15, 8, 1), ""), ((2**14, 8, 2), "16384$8$2$")):
            n, r, p = cost
            made = hashlib.scrypt(b"oak barrel", salt=b"salt", n=n, r=r, p=p, dklen=32, maxmem=2**26)
            stored = f"scrypt${words}{b'salt'.hex()}${made.hex()}"
            self.assertTrue(passphrases.fits(PASSPHRASE, stored))
            self.assertFalse(passphrases.fits("oak barrels", stored))
            self.assertFalse(passphrases.is_of_today(stored))
        self.assertTrue(passphrases.is_of_today(passphrases.hashed(PASSPHRASE)))
        # Records that ask for four gigabytes get none.
        self.assertFalse(passphrases.fits(PASSPHRASE, f"scrypt$4194304$8$1${'00' * 16}${'00' * 32}"))

    def test_what_is_too_easy_is_refused(self):
        self.assertEqual(len(passphrases.weakest()), 1000)
        for secret in ("", "12345", "aaaaaaaa", "x" * 201, "123456", "Password", "QWERTY", "1q2w3e4r", "AAaaaa"):
            with self.subTest(secret[:8]), self.assertRaises(InvalidInput):
                passphrases.hashed(secret)
        for secret in ("Kay Example", "kayexample", "KAY  EXAMPLE"):
            with self.subTest(secret), self.assertRaisesRegex(InvalidInput, "A name"):
                passphrases.hashed(secret, ("Kay Example", "Our shop"))
        passphrases.hashed("Kay Example's", ("Kay Example", "Our shop"))

    def test_two_are_hashed_at_once_and_a_crowd_is_sent_away(self):
        running, most, lock = [], [], threading.Lock()
        scrypt = hashlib.scrypt

        def watched(*args, **kwargs):
            with lock:
                running.append(1)
                most.append(len(running))
            try:
                return scrypt(*args, **kwargs)
            finally:
                with lock:
                    running.pop()

        said = []

        def hash_one():
            try:
                said.append(passphrases.fits("guess", None))
            except TooManyAtOnce:
                said.append("away")

        with mock.patch.object(passphrases.hashlib, "scrypt", watched):
            crowd = [threading.Thread(target=hash_one) for _ in range(60)]
            for one in crowd:
                one.start()
            for one in crowd:
                one.join()
        self.assertEqual(max(most), passphrases.AT_ONCE)
        self.assertEqual(len(said), 60)
        self.assertGreaterEqual(said.count("away"), 60 - 2 * (passphrases.AT_ONCE + passphrases.MOST_WAITING))
        self.assertGreaterEqual(said.count(False), passphrases.AT_ONCE + passphrases.MOST_WAITING)


class TriesTest(ShopCase):
    def setUp(self):
        super().setUp()
        self.clock = [datetime(2026, 11, 1, tzinfo=UTC)]
        object.__setattr__(self.shop, "clock", lambda: self.clock[0])
        signing_in.set_secret(self.shop, self.keeper, self.member.id, PASSPHRASE)

    def come(self, secret=PASSPHRASE, name="Moss", address="10.0.0.7"):
        return signing_in.sign_in(self.shop, name, secret, address, "")

    def wait(self, seconds):
        self.clock[0] += timedelta(seconds=seconds)

    def refused_for(self, **who):
        with self.assertRaises(TooManyAttempts) as caught:
            self.come(**who)
        return caught.exception.seconds

    def test_of_sixty_sent_at_once_one_is_judged(self):
        said, start = [], threading.Barrier(60)

        def guess(number):
            start.wait()
            try:
                self.come(f"guess {number}")
            except (NotSignedIn, TooManyAttempts) as error:
                said.append(type(error))

        crowd = [threading.Thread(target=guess, args=(number,)) for number in range(60)]
        for one in crowd:
            one.start()
        for one in crowd:
            one.join()
        self.assertEqual((said.count(NotSignedIn), said.count(TooManyAttempts)), (1, 59))

    def test_waits_double_from_one_second_to_sixty(self):
        for wanted in (1, 2, 4, 8, 16, 32, 60, 60, 60):
            with self.assertRaises(NotSignedIn):
                self.come("guess")
            # Asking in between is neither judged nor makes it longer.
            self.assertEqual(self.refused_for(), wanted)
            self.wait(wanted - 0.5)
            self.assertEqual(self.refused_for(), 1)
            self.wait(0.5)
        self.assertEqual(self.come().member.name, "Moss")
        with self.assertRaises(NotSignedIn):
            self.come("guess")
        self.assertEqual(self.refused_for(), 1)

    def test_nobody_is_locked_out_by_what_others_do(self):
        for _ in range(7):
            with self.assertRaises(NotSignedIn):
                self.come("guess", address="10.0.0.66")
            self.wait(60)
        with self.assertRaises(NotSignedIn):
            self.come("guess", address="10.0.0.66")
        self.refused_for(address="10.0.0.66")
        self.assertEqual(self.come(address="10.0.0.7").member.name, "Moss")

    def test_a_name_by_any_spelling_and_a_subscriber_by_any_address_are_one(self):
        with self.assertRaises(NotSignedIn):
            self.come("guess", name="MOSS ", address="2001:db8:1:2::1")
        self.refused_for(name="\uff2doss", address="2001:db8:1:2:3::9")
        self.come(address="2001:db8:1:3::1")

    def test_the_keeper_lifts_it_and_so_does_an_hour(self):
        for _ in range(2):
            with self.assertRaises(NotSignedIn):
                self.come("guess")
            self.wait(1)
        self.refused_for()
        signing_in.set_secret(self.shop, self.keeper, self.member.id, "birch barrel")
        self.come("birch barrel")
        for _ in range(6):
            with self.assertRaises(NotSignedIn):
                self.come("guess")
            self.wait(60)
        self.wait(3600)
        with self.assertRaises(NotSignedIn):
            self.come("guess")
        self.assertEqual(self.refused_for(), 1)

    def test_a_clock_set_back_locks_nobody_out(self):
        for _ in range(7):
            with self.assertRaises(NotSignedIn):
                self.come("guess")
            self.wait(60)
        self.clock[0] -= timedelta(days=365)
        self.assertEqual(self.come().member.name, "Moss")

    def test_an_old_hash_is_made_anew_at_the_next_sign_in(self):
        made = hashlib.scrypt(PASSPHRASE.encode(), salt=b"salt", n=2**15, r=8, p=1, dklen=32, maxmem=2**26)
        with self.shop.database.writing() as db:
            db.execute("UPDATE member SET secret = ? WHERE name = 'Moss'", (f"scrypt${b'salt'.hex()}${made.hex()}",))
        self.come()
        with self.shop.database.reading() as db:
            (stored,) = db.execute("SELECT secret FROM member WHERE name = 'Moss'").fetchone()
        self.assertTrue(passphrases.is_of_today(stored))
        self.come()

    def test_a_shop_that_is_there_is_told_before_anything_slow(self):
        with (
            mock.patch.object(passphrases.hashlib, "scrypt", side_effect=AssertionError("hashed")),
            self.assertRaisesRegex(InvalidInput, "founded already"),
        ):
            signing_in.found_and_enter(self.shop, "Ours", "0RSH", "Eve", PASSPHRASE, "")

    def test_names_are_taken_as_they_are_read(self):
        for name in ("MOSS", "\uff2doss", " moss"):
            with self.subTest(name), self.assertRaisesRegex(InvalidInput, "already"):
                people.add_member(self.shop, self.keeper, name, "member")
        row = people.change_member(self.shop, self.keeper, self.member.id, 1, "MOSS", "member", False)
        self.assertEqual(row["name"], "MOSS")
        self.assertEqual(people.member_named(self.shop, "moss").id, self.member.id)

    def test_the_wait_is_real_time(self):
        """With the clock of the machine, as it is served."""
        later = timedelta()
        object.__setattr__(self.shop, "clock", lambda: datetime.now(UTC) + later)
        with self.assertRaises(NotSignedIn):
            self.come("guess")
        self.assertEqual(self.refused_for(), 1)
        later = timedelta(seconds=1)
        self.come()


if __name__ == "__main__":
    unittest.main()
