from django.apps import AppConfig


class SlipsConfig(AppConfig):
    name = "slips"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import (
            renewing_original,
            withdrawing_attempt,
            withdrawing_picture,
        )
        from checks.events import check_finished
        from jobs.events import leaving
        from regions.events import withdrawing
        from work.registry import ARRIVING, SOON, register, tidy

        from .holding import (
            refuse_attempt_on_slip,
            refuse_picture_on_slip,
            refuse_renewal_while_out,
            refuse_while_out,
            refuse_while_worked,
        )
        from .judging import on_checked
        from .packages import forget_packages, run_package
        from .returning import let_go_of_closed, return_failed, run_return
        from .working import run_slip, slip_failed

        register("slip", run_slip, failed=slip_failed)
        register("return", run_return, ARRIVING, return_failed)
        register("package", run_package, SOON)
        register("dry run", run_return, failed=return_failed)
        tidy(let_go_of_closed)
        tidy(forget_packages)
        check_finished.connect(on_checked)
        withdrawing.connect(refuse_while_out)
        withdrawing_attempt.connect(refuse_attempt_on_slip)
        withdrawing_picture.connect(refuse_picture_on_slip)
        renewing_original.connect(refuse_renewal_while_out)
        leaving.connect(refuse_while_worked)
