from django.apps import AppConfig


class SlipsConfig(AppConfig):
    name = "slips"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from checks.events import check_finished
        from regions.events import withdrawing
        from work.registry import ARRIVING, register

        from .desk import run_slip, slip_failed
        from .holding import refuse_while_out
        from .judging import on_checked
        from .returning import return_failed, run_return

        register("slip", run_slip, failed=slip_failed)
        register("return", run_return, ARRIVING, return_failed)
        check_finished.connect(on_checked)
        withdrawing.connect(refuse_while_out)
