"""Registration of the accounts."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "velamen.web.accounts"
    label = "accounts"
