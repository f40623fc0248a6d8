"""Signing in: guesses are throttled by name and address, and nobody else waits for it."""

from datetime import timedelta

import pytest
from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone

LIMIT, GOOD = 6, "tide-and-thread"


def try_in(client, password, name="maren", address="10.0.0.1"):
    return client.post("/sign-in/", {"username": name, "password": password}, REMOTE_ADDR=address)


@pytest.fixture
def guessed(client, shop):
    """Somebody has guessed until it was enough."""
    for nth in range(LIMIT):
        answer = try_in(client, f"wrong {nth}")
    return answer


def test_after_too_many_guesses_the_right_password_waits_too(client, guessed):
    assert guessed.status_code == 429 and "Wait 10 minutes" in guessed.content.decode()
    assert try_in(client, GOOD).status_code == 429
    AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=11))
    assert try_in(client, GOOD).status_code == 302


def test_nobody_else_waits_for_it(client, guessed, stranger):
    assert try_in(Client(), GOOD, name="ivo").status_code == 302
    assert try_in(Client(), GOOD, address="10.0.0.2").status_code == 302


def test_a_few_wrong_passwords_are_forgotten_with_a_right_one(client, shop):
    for _ in range(2):
        for _ in range(LIMIT - 1):
            assert try_in(client, "wrong").status_code == 200
        assert try_in(client, GOOD).status_code == 302
        client.logout()


def test_a_guess_that_waits_costs_no_hashing(client, guessed, monkeypatch):
    """Eight guessers at once took the time of everybody: a password is worked out no more once it must wait."""

    def hashed(*args, **kwargs):
        raise AssertionError("a password was worked out")

    monkeypatch.setattr(User, "check_password", hashed)
    monkeypatch.setattr("django.contrib.auth.hashers.check_password", hashed)
    assert try_in(client, GOOD).status_code == 429
