"""Before serving: migrations, static files, and the demo shop where there is none yet."""

from __future__ import annotations

import os

import django


def main() -> None:
    """Brings database and static files up to date."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
    django.setup()
    from django.core.management import call_command

    from velamen.web.accounts.models import Shop
    from velamen.web.accounts.sessions import SessionStore
    from velamen.web.jobs.bin import empty_bins

    call_command("migrate", verbosity=0, interactive=False)
    call_command("collectstatic", verbosity=0, interactive=False)
    SessionStore.clear_expired()
    empty_bins()
    if not Shop.objects.exists():
        from velamen.web.demo.load import load_demo  # reads the whole core, which a second start need not

        begun = load_demo(os.environ.get("VELAMEN_DEMO_PASSWORD", ""))
        print("Demo shop: " + ", ".join(begun), flush=True)


if __name__ == "__main__":
    main()
