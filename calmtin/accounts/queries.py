"""Read-only questions about makers and their benches."""

from calmtin.accounts.models import Bench, User


def bench_of(user: User) -> Bench:
    """Return the maker's bench, with the usual temperatures until they set their own."""
    return Bench.objects.of(user).first() or Bench(user=user)


def nobody_yet() -> bool:
    """Return whether the first account is still to be made."""
    return not User.objects.exists()
