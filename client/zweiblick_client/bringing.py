"""Sending what is new in a folder, and bringing in what pairs by itself. What is doubtful waits for
a person, who finds it at the job's intake.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from zweiblick_core.errors import Refused
from zweiblick_core.rules.pairing import own_words

from .api import Server
from .folder import Seen, files_in, name_of

#: What is waited for is asked after so often, seconds.
PAUSE = 1.0
#: What the server says of bytes that it has.
_KNOWN = ("is here already", "was brought in already")


def pause() -> None:
    """Wait a little for the server's workers."""
    time.sleep(PAUSE)


@dataclass
class Brought:
    """What a round came to. `refused`: what could not be used, in words."""

    sent: int = 0
    pictures: int = 0
    results: int = 0
    waiting: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)


class Bringing:
    """A folder that feeds a job.

    Args:
        say: told of each step, one line each.
    """

    def __init__(self, server: Server, job: int, folder: Path, say: Callable[[str], None]):
        self._server, self._job, self._folder, self._say = server, job, folder, say
        self._sent: set[Seen] = set()
        self._before: set[Seen] = set()

    def round(self, settled: bool = False) -> Brought:
        """Send what is new, bring in what pairs.

        Args:
            settled: take files as they are; else only those that did not change since the last
                round, because an export may still write them.

        Raises:
            Unreachable: the server could not be reached for long.
        """
        found = set(files_in(self._folder))
        whole = found if settled else found & self._before
        self._before = found
        brought = Brought()
        for seen in sorted(whole - self._sent, key=lambda one: one.path):
            self._send(seen, brought)
        intake = self._read()
        for group in intake["groups"]:
            self._bring(intake, group, brought)
        return brought

    def _send(self, seen: Seen, brought: Brought) -> None:
        name = name_of(seen.path, self._folder)
        try:
            self._server.send(self._job, seen.path, name)
            self._say(f"sent {name}")
            brought.sent += 1
        except Refused as error:
            if not any(words in str(error) for words in _KNOWN):
                self._refuse(str(error), brought)
        self._sent.add(seen)

    def _refuse(self, words: str, brought: Brought) -> None:
        brought.refused.append(words)
        self._say(f"not taken: {words}")

    def _read(self) -> dict[str, Any]:
        """The job's intake, once all that arrived is read."""
        intake = self._server.intake(self._job)
        while any(one["state"] == "reading" for one in intake["arrivals"]):
            pause()
            intake = self._server.intake(self._job)
        return intake

    def _bring(self, intake: dict[str, Any], group: dict[str, Any], brought: Brought) -> None:
        arrivals = {one["id"]: one for one in intake["arrivals"]}
        results = [self._facts(intake, group, arrivals[one]) for one in group["results"]]
        masks = {one["result"]: one["mask"] for one in group["outlines"]}
        for result in results:
            result["mask"] = masks.get(result["arrival"])
        picture = group["picture"]
        try:
            if group["original"] and (results or group["mask"]):
                wanted = {
                    "name": group["name"],
                    "original": group["original"],
                    "mask": group["mask"],
                    "results": results,
                }
                self._await(self._server.bring_picture(self._job, wanted))
                brought.pictures += 1
                brought.results += len(results)
                self._say(f"brought in {group['name']} with {len(results)} results")
            elif picture is not None and results:
                for result in results:
                    self._await(self._server.bring_result(picture, result))
                    brought.results += 1
                self._say(f"brought {len(results)} more in for {group['name']}")
            else:
                lacks = "a result or a mask" if group["original"] else "its original"
                brought.waiting.append(f"{group['name']} waits for {lacks}")
        except Refused as error:
            self._refuse(f"{group['name']}: {error}", brought)

    def _await(self, asked: dict[str, Any]) -> None:
        while asked["state"] == "working":
            pause()
            asked = self._server.incoming(asked["id"])
        if asked["state"] == "refused":
            raise Refused(asked["reason"])

    def _facts(
        self, intake: dict[str, Any], group: dict[str, Any], arrival: dict[str, Any]
    ) -> dict[str, Any]:
        """What the words of a name say of how a result was made; what was said of that method last
        stands until a person corrects it.
        """
        picture = {word.lower() for word in own_words(group["name"])}
        words = " ".join(word for word in arrival["words"] if word.lower() not in picture)
        known = next(
            (one for one in intake["methods"] if one["name"].lower() == words.lower()), None
        )
        if known is None:
            return {"arrival": arrival["id"], "method": words or "unknown", "kind": "by hand"}
        return {
            "arrival": arrival["id"],
            "method": known["name"],
            "kind": known["kind"],
            "maker": known["maker"],
            "settings": known["settings"],
            "terms": known["terms"],
            "left_house": known["left_house"],
        }
