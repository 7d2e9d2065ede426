from django.apps import AppConfig


class VerdictsConfig(AppConfig):
    name = "verdicts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import attempt_added
        from checks.events import check_finished
        from jobs.events import leaving
        from regions.events import outlines_changed

        from .carrying import carry_to_checked
        from .ruling import cells_of_drawn, cells_of_new
        from .seconds import withdraw_of_leaving

        leaving.connect(withdraw_of_leaving)
        attempt_added.connect(cells_of_new)
        outlines_changed.connect(cells_of_drawn)
        check_finished.connect(carry_to_checked)
