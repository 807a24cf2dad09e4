"""The plug is pulled at any moment: what was acknowledged is there afterwards, and verifies."""

import http.client
import io
import random
import re
import threading
import time

from .inside import arguments, finish, prepare
from .server import Browser, Server

#: Of so many kills at least half must have had something to lose.
ENOUGH = 10


def main() -> None:
    """``count`` kills while somebody saves as fast as they can."""
    count, seed = arguments()
    chance = random.Random(seed)
    prepare()
    server = Server()
    wrong: list[str] = []
    kept = 0
    for number in range(count):
        server.start()
        browser = Browser(server)
        browser.sign_in()
        job = browser.job("Pebblewick Cottage")
        saved, sent = _save_until_killed(browser, job, server, chance, number)
        server.start()
        after = Browser(server)
        after.sign_in()
        listed = after.get(f"/jobs/{job}/circuits.csv")
        # What was on its way may have been saved, its answer lost: it then took the place.
        if saved and saved not in listed and (sent == saved or sent not in listed):
            wrong.append(f"kill {number}: acknowledged and gone: {saved}")
        kept += bool(saved)
        server.kill()
    if count >= ENOUGH and kept < count / 2:
        wrong.append(f"only {kept} of {count} kills came after an acknowledged change")
    wrong += _unverified()
    finish(wrong, f"{count} kills, {kept} acknowledged changes")


def _save_until_killed(browser, job: int, server: Server, chance, number: int) -> tuple[str, str]:
    """(the last name whose save was acknowledged, "" for none; the last that was sent)."""
    page = browser.get(f"/jobs/{job}/survey")
    circuit = re.search(r"at=(c\d+)", page)
    assert circuit is not None
    saved = name = ""
    timer = threading.Timer(chance.uniform(0.05, 0.9), server.kill)
    timer.start()
    try:
        for step in range(200):
            name = f"Kill {number} step {step}."
            base = re.search(r'name="base"\s+value="(\d+)"', page)
            assert base is not None, page[:500]
            form = {"op": "set", "path": f"{circuit[1]}.name", "text": name, "stage": "survey",
                    "base": base[1], "once": f"{number}-{step}"}  # fmt: skip
            status, page = browser.post(f"/jobs/{job}/edit", form)
            if status in (302, 303):
                saved = name  # it took the place of the one before
                page = browser.get(f"/jobs/{job}/survey")
    except (OSError, http.client.HTTPException):
        pass  # it was killed in the middle of an answer
    timer.join()
    time.sleep(0.05)
    return saved, name


def _unverified() -> list[str]:
    from django.core.management import call_command

    said = io.StringIO()
    try:
        call_command("verify", stdout=said, stderr=said)
    except SystemExit as end:
        if end.code:
            return [said.getvalue()]
    except Exception as error:  # what it says is the finding
        return [f"{error} {said.getvalue()}"]
    return []


if __name__ == "__main__":
    main()
