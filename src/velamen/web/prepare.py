"""Before serving: migrations, static files, and the demo shop where there is none yet."""

from __future__ import annotations

import os

import django


def main() -> None:
    """Brings database and static files up to date."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "velamen.web.settings")
    django.setup()
    from django.core.management import call_command

    from velamen.web.demo.load import load_demo
    from velamen.web.jobs.bin import empty_bins

    call_command("migrate", verbosity=0, interactive=False)
    call_command("collectstatic", verbosity=0, interactive=False)
    empty_bins()
    begun = load_demo(os.environ.get("VELAMEN_DEMO_PASSWORD", ""))
    if begun:
        print("Demo shop: " + ", ".join(begun), flush=True)


if __name__ == "__main__":
    main()
