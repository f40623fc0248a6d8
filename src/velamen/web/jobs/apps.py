"""Registration of the jobs."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "velamen.web.jobs"
    label = "jobs"

    def import_models(self) -> None:
        super().import_models()
        from velamen.web.jobs import handed, try_outs  # noqa: F401 (models of their own modules)
