"""What the HTTP server takes from strangers: bodies, idle connections, followers that hang up; the proxy before it."""

import http.client
import json
import os
import shutil
import socket
import ssl
import subprocess
import tempfile
import threading
import time
import unittest
import urllib.error
import urllib.request
from pathlib import Path
from unittest import mock
from urllib.parse import urlsplit

from rezept.actions.commands import people, signing_in
from rezept.formats.qr import qr_svg
from rezept.server import bodies, listening
from tests.demo_copy import copy_demo, open_demo
from tests.server.api_case import ApiCase, cookie_of
from tests.server.real_server import Server
from tests.until import listens, until

PASSPHRASE = "oak barrel"


class BodyTest(ApiCase):
    """Who may, before what they brought."""

    class Unread:
        """A body nobody may look at."""

        def read(self, *_):
            raise AssertionError("the body was read")

        readline = readinto = read

    def ask(self, client, method, url, **headers):
        environ = {"wsgi.input": self.Unread(), "CONTENT_LENGTH": "70000", "CONTENT_TYPE": "application/json"}
        return client.open(url, method=method, environ_overrides=environ, headers=headers).status_code

    def test_the_role_is_asked_before_the_body_is_read(self):
        for client, wanted in ((self.app.test_client(), 401), (self.client, 403)):
            for method, url in (("POST", "/api/members"), ("PUT", "/api/members/1"), ("POST", "/api/door/clear-demo")):
                self.assertEqual(self.ask(client, method, url), wanted, url)
        self.assertEqual(self.ask(self.app.test_client(), "POST", "/api/photos"), 401)

    def test_a_foreign_page_and_a_foreign_name_are_refused_before_it(self):
        self.assertEqual(self.ask(self.client, "POST", "/api/trials", Origin="https://evil.example"), 403)
        self.assertEqual(self.ask(self.client, "POST", "/api/trials", Host="evil.example"), 403)

    def test_64_kb_before_the_door(self):
        for url, body in (("/api/session", {"name": "Moss"}), ("/api/door/found", {"name": "Ours"})):
            large = json.dumps({**body, "secret": "x" * bodies.AT_THE_DOOR})
            self.assertEqual(self.client.post(url, data=large, content_type="application/json").status_code, 413)
            small = json.dumps({**body, "secret": "x" * 60_000})
            self.assertEqual(self.client.post(url, data=small, content_type="application/json").status_code, 400)

    def test_a_million_little_things_are_too_many(self):
        page = self.new_trial()
        url = f"/api/trials/{page['id']}/design"
        for text in ("[" + "[]," * 200_000 + "[]]", '{"a": [' + "1," * 200_000 + "1]}"):
            said = self.call("PUT", url, 400, data=text, content_type="application/json")
            self.assertIn("more than 100000 values", said["detail"])


class ListeningCase(unittest.TestCase):
    """The application on a real socket of this process, with short times."""

    times = {"IDLE_S": listening.IDLE_S}

    def setUp(self):
        from rezept.server import create_app

        self.shop = open_demo(self.addCleanup)
        self.app = create_app(self.shop)
        with mock.patch.multiple(listening, **self.times):
            self.server = listening.listen(self.app, "127.0.0.1", 0)
        self.port = int(self.server.effective_port)
        thread = threading.Thread(target=self.server.run, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 10)
        self.addCleanup(self.close)

    def close(self):
        self.server.task_dispatcher.shutdown(timeout=0.1)
        self.server.trigger.pull_trigger(lambda: self.server.asyncore.close_all(self.server._map))

    def connect(self):
        raw = socket.create_connection(("127.0.0.1", self.port), timeout=20)
        self.addCleanup(raw.close)
        return raw

    def page_s(self):
        began = time.monotonic()
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/door", timeout=20) as answer:
            self.assertEqual(answer.status, 200)
        return time.monotonic() - began


class StrangersTest(ListeningCase):
    def answer(self, head, body=b""):
        raw = self.connect()
        raw.sendall(head + body)
        response = http.client.HTTPResponse(raw)
        response.begin()
        return response.status, response.getheader("Content-Type"), response.read()

    def test_a_gigabyte_is_refused_by_its_head_alone(self):
        for url, length, words in (
            (b"/api/trials", 2**30, "2 MiB"),
            (b"/api/session", 2**17, "64 kB"),
            (b"/api/burns/1/photos/front", 2**30, "40 MiB"),
            (b"/", 2**30, "64 kB"),
        ):
            head = b"POST %b HTTP/1.1\r\nHost: localhost\r\nContent-Length: %d\r\n\r\n" % (url, length)
            status, kind, body = self.answer(head)
            self.assertEqual((status, kind), (413, "application/problem+json"))
            self.assertIn(words, json.loads(body)["detail"])

    def test_one_without_an_end_is_cut(self):
        head = b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nTransfer-Encoding: chunked\r\n\r\n"
        status, _, _ = self.answer(head, b"10000\r\n" + b"x" * 65536 + b"\r\n10000\r\n" + b"x" * 65536)
        self.assertEqual(status, 413)

    def test_a_follower_that_hangs_up_frees_its_place(self):
        places = self.app.extensions["rezept_streams"]
        raw = self.connect()
        raw.sendall(b"GET /api/changes/stream?since=999999 HTTP/1.1\r\nHost: localhost\r\n\r\n")
        self.assertIn(b"following", raw.recv(65536) + raw.recv(65536))
        self.assertEqual(places.taken(), 1)
        raw.close()
        until(lambda: not places.taken(), 10.0)


class CrowdTest(ListeningCase):
    def test_thirty_followers_and_two_hundred_idle_ones_keep_nobody_waiting(self):
        following = [self.connect() for _ in range(30)]
        for raw in following:
            raw.sendall(b"GET /api/changes/stream?since=999999 HTTP/1.1\r\nHost: localhost\r\n\r\n")
        places = self.app.extensions["rezept_streams"]
        until(lambda: places.taken() == 30)
        for _ in range(200):
            self.connect()
        self.assertLess(max(self.page_s() for _ in range(20)), 1.0)


class IdleTest(ListeningCase):
    times = {"IDLE_S": 1, "LOOK_EVERY_S": 1}

    def test_idle_connections_stop_nobody_and_are_dropped(self):
        idle = [self.connect() for _ in range(200)]
        # One that has begun to ask and does not go on is idle, too.
        idle[0].sendall(b"GET / HTTP/1.1\r\nHost: local")
        self.assertLess(self.page_s(), 1.0)
        for raw in idle:
            raw.settimeout(15)
            self.assertEqual(raw.recv(1), b"")


NGINX = shutil.which("nginx") or ""
EXAMPLE = Path(__file__).parents[2] / "docs/guide/proxy.conf"


class ProxyTest(unittest.TestCase):
    """The documented example before a real server, with a certificate of its own."""

    NAME = "shop.example"

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        copy_demo(cls.folder / "shop")

        from rezept.actions.open_shop import open_shop

        cls.shop = open_shop(cls.folder / "shop")
        cls.addClassCleanup(cls.shop.close)
        with cls.shop.database.writing() as db:
            db.execute("UPDATE shop SET demo = 0")
        kay = people.first_keeper(cls.shop)
        signing_in.set_secret(cls.shop, kay, kay.id, PASSPHRASE)
        cls.port = cls.free_port()
        cls.server = Server(cls.folder / "shop", "--behind-proxy", f"https://{cls.NAME}:{cls.port}")
        cls.addClassCleanup(cls.server.stop)
        cls.start_nginx()

    @staticmethod
    def free_port():
        with socket.create_server(("127.0.0.1", 0)) as free:
            return free.getsockname()[1]

    @classmethod
    def start_nginx(cls):
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", f"/CN={cls.NAME}",
             "-addext", f"subjectAltName=DNS:{cls.NAME}", "-keyout", "key.pem", "-out", "cert.pem"],
            cwd=cls.folder, check=True, capture_output=True,
        )  # fmt: skip
        # The example as it stands in the guide, but for where things lie on this machine.
        site = EXAMPLE.read_text()
        for before, after in (
            ("listen 443 ssl", f"listen 127.0.0.1:{cls.port} ssl"),
            ("/etc/ssl/shop.example.pem", str(cls.folder / "cert.pem")),
            ("/etc/ssl/private/shop.example.key", str(cls.folder / "key.pem")),
            ("http://127.0.0.1:8137", cls.server.base),
        ):
            assert before in site, before
            site = site.replace(before, after)
        paths = " ".join(
            f"{what}_temp_path {cls.folder / what};" for what in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        config = (
            f"pid {cls.folder / 'nginx.pid'}; daemon off; error_log {cls.folder / 'error.log'}; events {{}}"
            f" http {{ access_log off; {paths} {site} }}"
        )
        (cls.folder / "nginx.conf").write_text(config)
        nginx = subprocess.Popen([NGINX, "-p", str(cls.folder), "-c", "nginx.conf"], stderr=subprocess.PIPE)
        cls.addClassCleanup(nginx.stderr.close)
        cls.addClassCleanup(nginx.wait, 20)
        cls.addClassCleanup(nginx.terminate)
        until(lambda: listens(cls.port) or nginx.poll() is not None)
        assert nginx.poll() is None, nginx.stderr.read()

    def ask(self, method, path, body=None, **headers):
        trusting = ssl.create_default_context(cafile=str(self.folder / "cert.pem"))
        connection = http.client.HTTPSConnection(self.NAME, self.port, timeout=20, context=trusting)
        # The name of the certificate, on this machine.
        raw = socket.create_connection(("127.0.0.1", self.port), timeout=20)
        connection.sock = trusting.wrap_socket(raw, server_hostname=self.NAME)
        self.addCleanup(connection.close)
        data = None if body is None else json.dumps(body)
        kind = {"Content-Type": "application/json"} if data else {}
        connection.request(method, path, data, {**kind, "Origin": f"https://{self.NAME}:{self.port}", **headers})
        response = connection.getresponse()
        return response.status, response.headers, response

    def sign_in(self, secret=PASSPHRASE, **headers):
        return self.ask("POST", "/api/session", {"name": "Kay Example", "secret": secret}, **headers)

    def test_signing_in_and_writing_works_and_the_cookie_is_secure(self):
        status, headers, response = self.sign_in()
        self.assertEqual(status, 201)
        cookie = headers["Set-Cookie"]
        self.assertTrue(cookie.startswith(cookie_of(self.shop)))
        for word in ("Secure", "HttpOnly", "SameSite=Strict"):
            self.assertIn(word, cookie)
        mine = {"Cookie": cookie.split(";")[0], "X-Rezept-Form": json.load(response)["form_token"]}
        lot = {"facts": {"material_id": 1, "name": "through the proxy"}}
        self.assertEqual(self.ask("POST", "/api/lots", lot, **mine)[0], 201)
        self.assertEqual(self.ask("POST", "/api/lots", lot, **{**mine, "Origin": "https://evil.example"})[0], 403)
        # Codes on paper lead to where people come in.
        code = self.ask("GET", "/api/qr?place=/book", **mine)[2].read()
        self.assertEqual(code, qr_svg(f"https://{self.NAME}:{self.port}/book"))
        # What goes on comes through at once and is not held back.
        status, headers, response = self.ask("GET", "/api/changes/stream?since=0", **mine)
        self.assertIn(b"following", response.readline())

    def test_each_address_waits_for_itself_and_none_can_be_made_up(self):
        self.assertEqual(self.sign_in("guess", **{"X-Forwarded-For": "203.0.113.9"})[0], 401)
        # The proxy says who it was: the same, whatever they say of themselves.
        self.assertEqual(self.sign_in("guess", **{"X-Forwarded-For": "203.0.113.10"})[0], 429)
        with self.shop.database.reading() as db:
            tries = [tuple(row) for row in db.execute("SELECT name_key, address FROM sign_in_try")]
        self.assertEqual(tries, [("kay example", "127.0.0.1")])
        # The server is a process of its own, with the clock of the machine.
        time.sleep(1)
        self.assertEqual(self.sign_in()[0], 201)

    def test_a_foreign_name_is_refused(self):
        request = urllib.request.Request(f"{self.server.base}/api/door", headers={"Host": "evil.example"})
        with self.assertRaises(urllib.error.HTTPError) as caught:
            urllib.request.urlopen(request, timeout=20)
        self.addCleanup(caught.exception.close)
        self.assertEqual(caught.exception.code, 403)
        self.assertIn(self.NAME, json.load(caught.exception)["detail"])

    def test_who_asks_directly_speaks_for_themselves(self):
        """Without the proxy nobody can name another address: only the last one, and only from this machine."""
        app = listening.behind_proxy(lambda environ, _: [environ["REMOTE_ADDR"].encode()], "https://shop.example")

        def seen(**environ):
            return b"".join(app(environ, lambda *_: None)).decode()

        self.assertEqual(seen(REMOTE_ADDR="127.0.0.1", HTTP_X_FORWARDED_FOR="1.2.3.4, 10.0.0.5"), "10.0.0.5")
        self.assertEqual(seen(REMOTE_ADDR="10.0.0.9", HTTP_X_FORWARDED_FOR="1.2.3.4"), "10.0.0.9")
        self.assertEqual(seen(REMOTE_ADDR="127.0.0.1"), "127.0.0.1")


class NamesTest(unittest.TestCase):
    def test_names_count_on_this_machine_too(self):
        with tempfile.TemporaryDirectory() as folder:
            copy_demo(Path(folder) / "shop")
            server = Server(Path(folder) / "shop", "--name", "Shop.Local")
            self.addCleanup(server.stop)
            port = urlsplit(server.base).port
            for host, status in (
                (f"shop.local:{port}", 200),
                ("SHOP.local", 200),
                ("other.local", 403),
                ("10.0.0.7", 403),
            ):
                connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
                self.addCleanup(connection.close)
                connection.request("GET", "/api/door", headers={"Host": host})
                self.assertEqual(connection.getresponse().status, status, host)


assert os.name != "posix" or NGINX, "nginx is a Debian package the tests need (make chromium gets it)"

if __name__ == "__main__":
    unittest.main()
