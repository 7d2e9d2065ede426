"""The retoucher's desk: a small service on loopback that takes rework slips up and returns results.

    python -m standins.desk --port PORT --folder FOLDER [--asks SHARE] [--careless SHARE]

PUT /slips/KEY (a slip package) takes a slip up, once: the same key again changes nothing. GET
/slips/KEY says how far it is: working, asking (with a question, which PUT /slips/KEY/answer with
{"words"} answers), done or failed. GET /slips/KEY/result gives the result. Of some slips it asks
something first; with some it is careless and touches what was locked. What was taken up lies in the folder, so that a killed desk
goes on where it was.
All requests carry the key that ZWEIBLICK_DESK_KEY holds.
"""

from __future__ import annotations

import argparse
import hashlib
import hmac
import json
import os
import queue
import re
import sys
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from standins.files import write_durably
from standins.retoucher import work_slip
from zweiblick_core.errors import Refused

MOST_BYTES = 2_000_000_000


QUESTION = "May what lies right beside the outline be worked too, if it helps?"


def _drawn(key: str, what: str) -> float:
    """A number 0..1 that a slip always has."""
    return int(hashlib.sha256(f"{key} {what}".encode()).hexdigest()[:8], 16) / 16**8


class Desk:
    """Slips in a folder: KEY.zip as it came, KEY.answer what was answered, KEY.png when done,
    KEY.failed with the reason.

    Args:
        asks, careless: shares of slips, 0..1, of which something is asked, or with which something
            locked is touched. Which they are depends on the key alone.
    """

    def __init__(
        self, folder: Path, pace: float = 0.0, asks: float = 0.0, careless: float = 0.0
    ) -> None:
        self.folder, self.pace, self.asks, self.careless = folder, pace, asks, careless
        folder.mkdir(parents=True, exist_ok=True)
        self.progress: dict[str, float] = {}
        self._waiting: queue.Queue[str] = queue.Queue()
        for path in sorted(folder.glob("*.zip"), key=lambda path: path.stat().st_mtime):
            if self.state(path.stem)["state"] == "working":
                self._waiting.put(path.stem)
        threading.Thread(target=self._work, daemon=True).start()

    def take(self, key: str, package: bytes) -> bool:
        """Whether it is new."""
        path = self.folder / f"{key}.zip"
        if path.exists():
            return False
        write_durably(path, package)
        if not self._asking(key):
            self._waiting.put(key)
        return True

    def answer(self, key: str, words: str) -> None:
        """What was asked is answered: it is worked now. Again changes nothing."""
        path = self.folder / f"{key}.answer"
        if not path.exists():
            write_durably(path, words.encode())
            self._waiting.put(key)

    def _asking(self, key: str) -> bool:
        return _drawn(key, "asks") < self.asks and not (self.folder / f"{key}.answer").exists()

    def state(self, key: str) -> dict | None:
        if (self.folder / f"{key}.png").exists():
            return {"state": "done", "progress": 1.0}
        failed = self.folder / f"{key}.failed"
        if failed.exists():
            return {"state": "failed", "progress": 1.0, "reason": failed.read_text()}
        if not (self.folder / f"{key}.zip").exists():
            return None
        if self._asking(key):
            return {"state": "asking", "progress": 0.0, "question": QUESTION}
        return {"state": "working", "progress": self.progress.get(key, 0.0)}

    def result(self, key: str) -> bytes | None:
        path = self.folder / f"{key}.png"
        return path.read_bytes() if path.exists() else None

    def _work(self) -> None:
        while True:
            key = self._waiting.get()
            try:
                time.sleep(self.pace)
                result = work_slip(
                    (self.folder / f"{key}.zip").read_bytes(),
                    lambda part, key=key: self.progress.__setitem__(key, part),
                    careless=_drawn(key, "careless") < self.careless,
                )
                write_durably(self.folder / f"{key}.png", result)
            except Refused as error:
                write_durably(self.folder / f"{key}.failed", str(error).encode())
            except Exception as error:  # one slip must not end the desk
                print(f"slip {key}: {error!r}", file=sys.stderr, flush=True)
                write_durably(self.folder / f"{key}.failed", b"the desk could not work it")


class Handler(BaseHTTPRequestHandler):
    """What the desk understands over HTTP. `desk` and `secret` are set by `handler_for`."""

    protocol_version = "HTTP/1.1"
    desk: Desk
    secret: str

    def _say(self, code: int, body: bytes, kind: str = "application/json") -> None:
        self.send_response(code)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def _refuse(self, code: int, words: str) -> None:
        """Without having read the body: what is left of it must not be taken for a request."""
        self.close_connection = True
        self._say(code, json.dumps({"error": words}).encode())

    def _key(self, pattern: str) -> str | None:
        given = self.headers.get("X-Desk-Key", "")
        if not hmac.compare_digest(given.encode(), self.secret.encode()):
            self._refuse(403, "wrong key")
            return None
        found = re.fullmatch(pattern, self.path)
        if not found:
            self._refuse(404, "nothing here")
            return None
        return found[1]

    def do_PUT(self) -> None:
        # Whoever does not know the key has nothing read.
        answers = self.path.endswith("/answer")
        key = self._key(r"/slips/([0-9a-f]{32})" + ("/answer" if answers else ""))
        if key is None:
            return
        length = self.headers.get("Content-Length") or ""
        size = int(length) if re.fullmatch(r"[0-9]{1,15}", length) else 0
        if not 0 < size <= MOST_BYTES:
            self._refuse(413, "no body, or too large")
            return
        body = self.rfile.read(size)
        if len(body) == size and answers:
            self._answered(key, body)
        elif len(body) == size:
            code = 201 if self.desk.take(key, body) else 200
            self._say(code, json.dumps(self.desk.state(key)).encode())

    def _answered(self, key: str, body: bytes) -> None:
        try:
            words = str(json.loads(body)["words"])
        except (ValueError, KeyError, TypeError, RecursionError):
            self._say(400, b'{"error": "no answer"}')
            return
        if self.desk.state(key) is None:
            self._say(404, b'{"error": "never heard of it"}')
            return
        self.desk.answer(key, words)
        self._say(200, json.dumps(self.desk.state(key)).encode())

    def do_GET(self) -> None:
        if self.path.endswith("/result"):
            key = self._key(r"/slips/([0-9a-f]{32})/result")
            data = self.desk.result(key) if key else None
            if data:
                self._say(200, data, "image/png")
            elif key:
                self._say(404, b'{"error": "no result yet"}')
            return
        key = self._key(r"/slips/([0-9a-f]{32})")
        state = self.desk.state(key) if key else None
        if state:
            self._say(200, json.dumps(state).encode())
        elif key:
            self._say(404, b'{"error": "never heard of it"}')

    def log_message(self, text: str, *values: object) -> None:
        pass


def handler_for(desk: Desk, secret: str) -> type[Handler]:
    """A handler that serves one desk under one key."""
    return type("DeskHandler", (Handler,), {"desk": desk, "secret": secret})


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument(
        "--pace",
        type=float,
        default=0.0,
        help="seconds to wait before each slip, to be seen working",
    )
    for what in ("asks", "careless"):
        parser.add_argument(f"--{what}", type=float, default=0.0, help="share of slips, 0..1")
    given = parser.parse_args()
    desk = Desk(given.folder, given.pace, given.asks, given.careless)
    ThreadingHTTPServer(
        ("127.0.0.1", given.port), handler_for(desk, os.environ["ZWEIBLICK_DESK_KEY"])
    ).serve_forever()


if __name__ == "__main__":
    main()
