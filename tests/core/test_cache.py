"""The one cache: least recently used first, by weight, shared by threads."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from uhrwerk.core.cache import Cache, cached


def test_the_least_recently_used_is_dropped_first() -> None:
    cache: Cache[int] = Cache(3)
    for k in range(3):
        cache.put(k, 10 * k)
    assert cache.peek(0) == 0  # used again
    cache.put(3, 30)
    assert [cache.peek(k) for k in range(4)] == [0, None, 20, 30]


def test_weights_are_counted_and_one_too_heavy_stands_alone() -> None:
    cache: Cache[str] = Cache(10, len)
    for word in ("four", "five5", "sixsix"):
        cache.put(word, word)
    assert cache.peek("four") is None
    assert cache.peek("sixsix") == "sixsix"
    cache.put("heavy", "x" * 50)
    assert len(cache) == 1
    assert cache.peek("heavy") == "x" * 50


def test_what_stands_there_first_stays() -> None:
    cache: Cache[list[int]] = Cache(3)
    first = cache.put("a", [1])
    assert cache.put("a", [2]) is first


def test_threads_that_evict_at_once_do_not_disturb_one_another() -> None:
    """Dictionaries that several threads evicted from by hand raised RuntimeError once in 81,000 calls."""
    calls: list[int] = []

    @cached(5, key=lambda n: n)
    def square(n: int) -> int:
        calls.append(n)
        return n * n

    numbers = [(7 * k + j) % 23 for k in range(4000) for j in range(20)]
    with ThreadPoolExecutor(8) as pool:
        assert list(pool.map(square, numbers, chunksize=50)) == [n * n for n in numbers]
    assert len(calls) < len(numbers)  # some were remembered
