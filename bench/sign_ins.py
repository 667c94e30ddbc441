"""Sixty people signing in at once: what others' pages take meanwhile, and the memory of the program."""

from __future__ import annotations

import statistics
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import psutil
import requests

from bench.pages import hidden
from bench.started import Started, started
from widebend.demo import PEOPLE

AT_ONCE, LOOKS, PORT = 60, 40, 8767
PAGE = "/jobs/104/intake"


def bench_sign_ins() -> None:
    """Sixty sign-ins at once, half of them wrong: what a page of others takes beside them, and the most memory."""
    with started(PORT, "wb-signs-") as program:
        for _ in range(5):
            _page_s(program)
        alone = [_page_s(program) for _ in range(LOOKS)]
        rest = _memory_mb(program)
        forms = [_form(program) for _ in range(AT_ONCE)]
        most, done = [rest], threading.Event()
        watcher = threading.Thread(target=_watch, args=(program, most, done))
        watcher.start()
        with ThreadPoolExecutor(AT_ONCE) as people:
            since = time.monotonic()
            signed = [people.submit(_sign_in, program, *form, number) for number, form in enumerate(forms)]
            beside = []
            while not all(one.done() for one in signed):
                beside.append(_page_s(program))
            took = time.monotonic() - since
        done.set()
        watcher.join()
        answers = [one.result() for one in signed]
        print(
            f"{AT_ONCE} sign-ins in {took:.1f} s: {sum(code == 303 for code in answers)} let in, "
            f"{sum(code in (401, 422) for code in answers)} refused, "
            f"{sum(code not in (303, 401, 422) for code in answers)} told to wait or failed"
        )
        usual, then = 1000 * statistics.median(alone), 1000 * statistics.median(beside)
        print(
            f"a page of others: {usual:.0f} ms alone, {then:.0f} ms beside (worst {1000 * max(beside):.0f} of "
            f"{len(beside)}); memory {rest:.0f} MB at rest, at most {max(most):.0f}"
        )


def _page_s(program: Started) -> float:
    since = time.monotonic()
    answer = requests.get(program.host + PAGE, timeout=30)
    assert answer.status_code == 200, answer.status_code
    return time.monotonic() - since


def _form(program: Started) -> tuple[requests.Session, str]:
    session = requests.Session()
    return session, hidden(session.get(program.host + "/sign-in", timeout=30).text, "csrf_token")


def _sign_in(program: Started, session: requests.Session, token: str, number: int) -> int:
    name, (_, password) = list(PEOPLE.items())[number % len(PEOPLE)]
    fields = {"csrf_token": token, "name": name, "password": password if number % 2 else "not this one"}
    answer = session.post(program.host + "/sign-in", data=fields, timeout=60, allow_redirects=False)
    return answer.status_code


def _memory_mb(program: Started) -> float:
    """What the program's own processes hold for themselves [MB]."""
    keeper = psutil.Process(program.mother.pid)
    return sum(p.memory_full_info().uss for p in [keeper, *keeper.children(recursive=True)]) / 1e6


def _watch(program: Started, most: list[float], done: threading.Event) -> None:
    while not done.wait(0.1):
        try:
            most.append(_memory_mb(program))
        except psutil.NoSuchProcess:
            continue
