"""Short codes for labels, taken from a name."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import count


def codes_for(name: str) -> Iterator[str]:
    """Yield codes for `name`, the shortest first, without end.

    The initials of its first two words, then more letters of the first word, then a
    number behind the initials. Letters of any script count; a name with none is "P".

    >>> from itertools import islice
    >>> list(islice(codes_for("Harbour stick"), 4))
    ['HS', 'HAS', 'HARS', 'HS2']
    """
    words = [word for word in name.replace("-", " ").split() if word[0].isalnum()]
    initials = "".join(word[0] for word in words[:2]).upper()[:2] or "P"
    yield initials
    if len(words) > 1:
        for length in (2, 3):
            if len(words[0]) >= length and words[0][:length].isalnum():
                yield (words[0][:length] + words[1][0]).upper()[:5]
    for number in count(2):
        yield f"{initials}{number}"
