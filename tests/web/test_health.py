"""Whether the application can answer, and what is told while its database is away."""

import pytest
from django.db import OperationalError, connection
from django.test import Client
from django.urls import reverse

from velamen.web.board import views


def test_health_is_told_to_anybody(client, db):
    answer = client.get("/healthz")
    assert (answer.status_code, answer.content) == (200, b"ok\n") and "no-store" in answer["Cache-Control"]


@pytest.fixture
def away(monkeypatch):
    """A database that answers nothing."""

    def refuse(*args, **kwargs):
        raise OperationalError(2002, "Can't connect to server")

    monkeypatch.setattr(connection, "cursor", refuse)


def test_a_database_that_is_away_is_told_on_every_page(signed_in, job, away):
    patient = Client(raise_request_exception=False)
    patient.cookies = signed_in.cookies
    assert patient.get("/healthz").status_code == 503
    for address in ("/", "/sign-in/", reverse("build", args=[job.pk]), reverse("plan", args=[job.pk])):
        answer = patient.get(address)
        if address != "/sign-in/":
            assert answer.status_code == 503 and answer["Retry-After"] == "10", address
            assert "The database is away" in answer.content.decode()


def test_a_fault_of_ours_is_another_page(signed_in, monkeypatch):
    def broken(*args, **kwargs):
        raise RuntimeError("a fault")

    monkeypatch.setattr(views.Job.objects, "filter", broken)
    patient = Client(raise_request_exception=False)
    patient.cookies = signed_in.cookies
    answer = patient.get("/")
    assert answer.status_code == 500 and "Something went wrong on our side" in answer.content.decode()
