from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "ledger"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from history.events import recorded
        from regions.events import outlines_changed
        from work.registry import tidy

        from .redrawn import on_outlines_changed
        from .standing import catch_up, on_recorded

        recorded.connect(on_recorded)
        outlines_changed.connect(on_outlines_changed)
        tidy(catch_up)
