from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "ledger"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import original_renewed
        from history.events import recorded
        from regions.events import outlines_changed
        from work.registry import tidy

        from .redrawn import on_original_renewed, on_outlines_changed
        from .standing import catch_up, on_recorded

        recorded.connect(on_recorded)
        outlines_changed.connect(on_outlines_changed)
        original_renewed.connect(on_original_renewed)
        tidy(catch_up)
