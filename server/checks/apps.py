from django.apps import AppConfig


class ChecksConfig(AppConfig):
    name = "checks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import attempt_added
        from jobs.events import judged_for_changed
        from regions.events import outlines_changed
        from work.registry import register

        from .carrying import carry_outside
        from .events import check_finished
        from .running import (
            ask_check_of_new,
            ask_checks_anew,
            ask_checks_of_job,
            check_failed,
            run_check,
        )

        register("check", run_check, failed=check_failed)
        attempt_added.connect(ask_check_of_new)
        check_finished.connect(carry_outside)
        outlines_changed.connect(ask_checks_anew)
        judged_for_changed.connect(ask_checks_of_job)
