from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "ledger"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from history.events import recorded
        from work.registry import tidy

        from .standing import catch_up, on_recorded

        recorded.connect(on_recorded)
        tidy(catch_up)
