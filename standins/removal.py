"""An outside removal service: a small service on loopback that takes something out of a picture.

    python -m standins.removal --port PORT --folder FOLDER [--pace SECONDS] [--credits N]

Its interface is described in docs/outside.md. An order costs credits, takes seconds, and gives three
takes that differ. It works at a limited size, so that what is large comes back soft, and makes the
mistakes that such services make. Orders lie in the folder: a killed service goes on where it was.
Every request carries the key that ZWEIBLICK_REMOVAL_KEY holds. Faults can be ordered too, for tests:
see `Faults`.
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
from typing import Any

from standins.files import write_durably
from standins.removing import LARGEST, TAKES, Unreadable, take_out, unpacked

MOST_BYTES = 400_000_000
VERSION = "1"
#: Credits an order costs, and what may be done with its takes.
TIERS = {
    "private": {"credits": 1, "terms": "private use only"},
    "studio": {"credits": 3, "terms": "any use"},
}


class Faults:
    """Things that go wrong on order: a list of {on, fault}, each used once, in turn. `on`: "order",
    "state" or "take". `fault`:

    - "500": it answers so and does nothing; "500 after": it does it and answers so.
    - "slow": it does it, and answers only after `seconds`.
    - "malformed": what it answers is no JSON, or no picture.
    - "half": the connection breaks off in the middle of the answer.
    - "duplicate": instead of this take it gives the first again.
    """

    def __init__(self) -> None:
        self._waiting: list[dict[str, Any]] = []
        self._lock = threading.Lock()

    def schedule(self, some: list[dict[str, Any]]) -> None:
        with self._lock:
            self._waiting = list(some)

    def next(self, on: str) -> dict[str, Any]:
        with self._lock:
            for fault in self._waiting:
                if fault.get("on") == on:
                    self._waiting.remove(fault)
                    return fault
        return {}


class Service:
    """Orders in a folder: ID.zip as it came, ID.json what is known of it, ID-N.png its takes."""

    def __init__(self, folder: Path, pace: float, credits: int) -> None:
        self.folder, self.pace = folder, pace
        folder.mkdir(parents=True, exist_ok=True)
        self.faults = Faults()
        self._lock = threading.Lock()
        self._progress: dict[str, float] = {}
        self._waiting: queue.Queue[str] = queue.Queue()
        self._account = folder / "account.json"
        if not self._account.exists():
            self._write(self._account, {"credits": credits})
        for path in sorted(folder.glob("*.zip"), key=lambda path: path.stat().st_mtime):
            if self._read(path.with_suffix(".json"))["state"] == "working":
                self._waiting.put(path.stem)
        threading.Thread(target=self._work, daemon=True).start()

    def _read(self, path: Path) -> dict[str, Any]:
        read: dict[str, Any] = json.loads(path.read_text())
        return read

    def _write(self, path: Path, said: dict[str, Any]) -> None:
        write_durably(path, json.dumps(said).encode())

    def account(self) -> dict[str, Any]:
        return {
            "version": VERSION,
            "credits": self._read(self._account)["credits"],
            "largest": LARGEST,
            "takes": TAKES,
            "tiers": [{"name": name, **tier} for name, tier in TIERS.items()],
        }

    def order(self, key: str, package: bytes) -> tuple[int, dict[str, Any]]:
        """Take an order once for a key: (status, what is said)."""
        content = hashlib.sha256(package).hexdigest()
        path = self.folder / f"{hashlib.sha256(key.encode()).hexdigest()[:32]}.json"
        with self._lock:
            if path.exists():
                known = self._read(path)
                if known["content"] != content:
                    return 409, {"error": "this key was used for another order"}
                return 200, self._shown(known)
            try:
                asked = unpacked(package).asked
                tier = TIERS[asked["tier"]]
            except (Unreadable, KeyError, TypeError) as error:
                return 400, {"error": f"the order cannot be read: {error}"}
            account = self._read(self._account)
            if account["credits"] < tier["credits"]:
                return 402, {"error": "not enough credits"}
            said = {
                "id": path.stem,
                "content": content,
                "tier": asked["tier"],
                "state": "working",
                "charged": tier["credits"],
                "terms": tier["terms"],
                "takes": [],
                "reason": "",
            }
            write_durably(path.with_suffix(".zip"), package)
            self._write(path, said)
            account["credits"] -= int(tier["credits"])
            self._write(self._account, account)
        self._waiting.put(path.stem)
        return 201, self._shown(said)

    def state(self, order: str) -> dict[str, Any] | None:
        path = self.folder / f"{order}.json"
        return self._shown(self._read(path)) if path.exists() else None

    def _shown(self, said: dict[str, Any]) -> dict[str, Any]:
        progress = 1.0 if said["state"] != "working" else self._progress.get(said["id"], 0.0)
        return {
            **{name: value for name, value in said.items() if name not in ("content", "tier")},
            "progress": progress,
        }

    def take(self, order: str, number: int) -> bytes | None:
        path = self.folder / f"{order}-{number}.png"
        return path.read_bytes() if path.exists() else None

    def _work(self) -> None:
        while True:
            order = self._waiting.get()
            path = self.folder / f"{order}.json"
            said = self._read(path)
            try:
                package = unpacked(path.with_suffix(".zip").read_bytes())
                for number in range(1, TAKES + 1):
                    time.sleep(self.pace)
                    made = take_out(package, number)
                    write_durably(self.folder / f"{order}-{number}.png", made)
                    said["takes"].append(hashlib.sha256(made).hexdigest())
                    self._progress[order] = number / TAKES
                said["state"] = "done"
            except Exception as error:  # one order must not end the service
                print(f"order {order}: {error!r}", file=sys.stderr, flush=True)
                said |= {
                    "state": "failed",
                    "charged": 0,
                    "takes": [],
                    "reason": "it could not be done",
                }
                with self._lock:
                    account = self._read(self._account)
                    account["credits"] += int(TIERS[said["tier"]]["credits"])
                    self._write(self._account, account)
            self._write(path, said)


class Handler(BaseHTTPRequestHandler):
    """What the service understands over HTTP. `service` and `secret` are set by `handler_for`."""

    protocol_version = "HTTP/1.1"
    service: Service
    secret: str

    def _say(self, code: int, body: bytes, kind: str, fault: dict[str, Any]) -> None:
        name = fault.get("fault", "")
        if name == "slow":
            time.sleep(float(fault.get("seconds", 30)))
        if name in ("500", "500 after"):
            code, body, kind = 500, b"something went wrong", "text/plain"
        if name == "malformed":
            body = b'{"state": ' if kind == "application/json" else b"no picture"
        self.send_response(code)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if name == "half":
            self.close_connection = True
            body = body[: len(body) // 2]
        self.wfile.write(body)

    def _json(self, code: int, said: object, fault: dict[str, Any]) -> None:
        self._say(code, json.dumps(said).encode(), "application/json", fault)

    def _refuse(self, code: int, words: str) -> None:
        """Without having read the body: what is left of it must not be taken for a request."""
        self.close_connection = True
        self._json(code, {"error": words}, {})

    def _known(self) -> bool:
        given = self.headers.get("X-Api-Key", "")
        if hmac.compare_digest(given.encode(), self.secret.encode()):
            return True
        self._refuse(403, "wrong key")
        return False

    def _body(self) -> bytes | None:
        length = self.headers.get("Content-Length") or ""
        size = int(length) if re.fullmatch(r"[0-9]{1,15}", length) else 0
        if not 0 < size <= MOST_BYTES:
            self._refuse(413, "no body, or too large")
            return None
        body = self.rfile.read(size)
        return body if len(body) == size else None

    def do_POST(self) -> None:
        # Whoever does not know the key has nothing read.
        if not self._known():
            return
        if self.path != "/v1/orders":
            self._refuse(404, "nothing here")
            return
        key = self.headers.get("Idempotency-Key", "")
        if not re.fullmatch(r"[0-9A-Za-z-]{8,80}", key):
            self._refuse(400, "an order needs a key of its own")
            return
        body = self._body()
        if body is None:
            return
        fault = self.service.faults.next("order")
        if fault.get("fault") == "500":
            self._json(500, {}, fault)
            return
        code, said = self.service.order(key, body)
        self._json(code, said, fault)

    def do_PUT(self) -> None:
        if not self._known():
            return
        if self.path != "/v1/faults":
            self._refuse(404, "nothing here")
            return
        body = self._body()
        if body is not None:
            self.service.faults.schedule(json.loads(body))
            self._json(200, {}, {})

    def do_GET(self) -> None:
        if not self._known():
            return
        if self.path == "/v1/account":
            self._json(200, self.service.account(), {})
            return
        found = re.fullmatch(r"/v1/orders/([0-9a-f]{32})(?:/takes/([1-9]))?", self.path)
        if not found:
            self._refuse(404, "nothing here")
            return
        if found[2] is None:
            said = self.service.state(found[1])
            if said is None:
                self._refuse(404, "no such order")
            else:
                self._json(200, said, self.service.faults.next("state"))
            return
        fault = self.service.faults.next("take")
        number = 1 if fault.get("fault") == "duplicate" else int(found[2])
        made = self.service.take(found[1], number)
        if made is None:
            self._refuse(404, "no such take yet")
        else:
            self._say(200, made, "image/png", fault)

    def log_message(self, format: str, *args: object) -> None:
        pass


def handler_for(service: Service, secret: str) -> type[Handler]:
    """A handler class for one service."""
    return type("Bound", (Handler,), {"service": service, "secret": secret})


def main() -> None:
    """Serve until ended."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument("--pace", type=float, default=0.5)
    parser.add_argument("--credits", type=int, default=200)
    asked = parser.parse_args()
    service = Service(asked.folder, asked.pace, asked.credits)
    secret = os.environ["ZWEIBLICK_REMOVAL_KEY"]
    ThreadingHTTPServer(("127.0.0.1", asked.port), handler_for(service, secret)).serve_forever()


if __name__ == "__main__":
    main()
