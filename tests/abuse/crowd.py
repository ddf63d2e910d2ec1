"""Eight people write at once for a while, and twenty slow senders stand in the way: nothing may be lost, nobody waits.

``python -m tests.abuse.crowd [SECONDS]``: a server of its own on a data folder of its own, on the loopback only.
"""

import os
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from collections import Counter
from http.cookiejar import CookieJar
from pathlib import Path

ROOT = Path(__file__).parents[2]
MANAGE = [sys.executable, str(ROOT / "manage.py")]
WRITERS, SLOW = 8, 20
# Each writer has a field of one case for itself.
FIELDS = ("source", "asked_price", "bought_on", "size_us", "box_size_us", "region", "condition", "arrival")
SAID = {
    "source": lambda n: f"at the counter {n}",
    "asked_price": lambda n: f"{100 + n % 800}.00",
    "bought_on": lambda n: f"20{10 + n % 15}-0{1 + n % 9}-11",
    "size_us": lambda n: ("8", "8.5", "9")[n % 3],
    "box_size_us": lambda n: ("8", "8.5", "9")[n % 3],
    "region": lambda n: ("eu", "us", "asia")[n % 3],
    "condition": lambda n: ("deadstock", "tried_on", "worn")[n % 3],
    "arrival": lambda n: ("own_box", "no_box")[n % 2],
}
SCENE = """
from tests.support.scenes import small_organisation, small_case
scene = small_organisation()
print(small_case(scene).number)
"""
LEFT = """
from casework.models import Case
case = Case.objects.get()
for name in {fields}:
    value = getattr(case, name) if hasattr(case, name) else getattr(case.pair, name)
    print(name, value, sep="=")
"""


def free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return one.getsockname()[1]


class Person:
    """A browser's worth of HTTP: cookies, and the token with every post."""

    def __init__(self, address: str):
        self.address = address
        self.cookies = CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.cookies))
        self.opener.open(f"{address}/sign-in/").read()
        self.post("/sign-in/", username="mara", password="a-long-password")

    def post(self, path: str, **said) -> int:
        token = next(cookie.value for cookie in self.cookies if cookie.name == "csrftoken")
        body = urllib.parse.urlencode(said).encode()
        asked = urllib.request.Request(self.address + path, body, {"X-CSRFToken": token, "HX-Request": "true"})
        try:
            with self.opener.open(asked, timeout=60) as answer:
                return answer.status
        except urllib.error.HTTPError as error:
            return error.code


def crowd(address: str, number: str, seconds: float) -> tuple[dict, list, list]:
    """(the last value that was answered as saved, by field; answers that were none; s a save) of the writers."""
    last, odd, took, ends = {}, [], [], time.monotonic() + seconds

    def write(field: str) -> None:
        person, n = Person(address), 0
        while time.monotonic() < ends:
            n, began, value = n + 1, time.monotonic(), SAID[field](n)
            status = person.post(f"/cases/{number}/intake/", **{field: value})
            took.append(time.monotonic() - began)
            if status == 200:
                last[field] = value
            else:
                odd.append(status)

    threads = [threading.Thread(target=write, args=[field]) for field in FIELDS]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return last, odd, took


def beside_slow_senders(address: str, seconds: float) -> list[float]:
    """Seconds a page takes while bodies arrive by the drop."""
    host, port = address.removeprefix("http://").split(":")
    head = f"POST /sign-in/ HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 900000\r\n\r\na="
    senders = [socket.create_connection((host, int(port))) for _ in range(SLOW)]
    for sender in senders:
        sender.sendall(head.encode())
    took, ends = [], time.monotonic() + seconds
    while time.monotonic() < ends:
        began = time.monotonic()
        urllib.request.urlopen(f"{address}/sign-in/", timeout=60).read()
        took.append(time.monotonic() - began)
        for sender in senders:
            try:
                sender.sendall(b"x" * 2000)
            except OSError:
                continue
        time.sleep(0.1)
    for sender in senders:
        sender.close()
    return took


def main(seconds: float) -> int:
    port = free_port()
    address = f"http://127.0.0.1:{port}"
    with tempfile.TemporaryDirectory() as folder:
        env = os.environ | {"WAHRHEIT_DATA": folder, "PYTHONPATH": str(ROOT), "WAHRHEIT_WORKERS": "1"}
        for given in (["migrate", "--verbosity", "0"], ["collectstatic", "--noinput", "--verbosity", "0"]):
            subprocess.run([*MANAGE, *given], env=env, check=True)
        shell = [*MANAGE, "shell", "-v", "0", "-c"]
        number = subprocess.run([*shell, SCENE], env=env, check=True, capture_output=True, text=True).stdout.strip()
        serve = [sys.executable, "-m", "gunicorn", "wahrheit.wsgi", "--bind", f"127.0.0.1:{port}", "--threads", "32"]
        server = subprocess.Popen(serve, env=env, cwd=ROOT, stderr=subprocess.DEVNULL)
        try:
            _wait_for(address)
            last, odd, took = crowd(address, number, seconds)
            script = LEFT.format(fields=FIELDS)
            there = subprocess.run([*shell, script], env=env, check=True, capture_output=True, text=True).stdout
            slow = beside_slow_senders(address, min(seconds, 20))
        finally:
            server.terminate()
            server.wait()
    left = dict(line.split("=", 1) for line in there.splitlines())
    lost = [field for field, value in last.items() if left[field] != value]
    print(
        f"{WRITERS} writers, {seconds:.0f} s: {len(took)} saves, median {statistics.median(took):.2f} s, longest "
        f"{max(took):.2f} s; fields lost: {lost or 'none'}; answers that were none: {dict(Counter(odd)) or 'none'}"
    )
    print(f"beside {SLOW} slow senders: a page in {statistics.median(slow):.2f} s, longest {max(slow):.2f} s")
    return int(bool(lost or odd))


def _wait_for(address: str) -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(f"{address}/sign-in/", timeout=5).read()
        except OSError:
            time.sleep(0.2)
        else:
            return


if __name__ == "__main__":
    sys.exit(main(float([*sys.argv[1:], "60"][0])))
