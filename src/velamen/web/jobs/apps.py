"""Registration of the jobs."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "velamen.web.jobs"
    label = "jobs"
