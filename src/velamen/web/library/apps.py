"""Registration of the library."""

from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "velamen.web.library"
    label = "library"
