from django.apps import AppConfig


class SigningConfig(AppConfig):
    name = "signing"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import (
            correcting,
            renewing_original,
            withdrawing_attempt,
            withdrawing_picture,
        )
        from regions.events import outlines_changed
        from verdicts.events import ruling, ruling_outside
        from work.registry import register, tidy

        from .building import delivery_failed, run_delivery
        from .freezing import (
            refuse_attempt_that_left,
            refuse_correction_of_signed,
            refuse_picture_that_left,
            refuse_ruling_of_signed,
            refuse_work_on_signed,
        )
        from .keeping import forget_deliveries

        register("delivery", run_delivery, failed=delivery_failed)
        tidy(forget_deliveries)
        correcting.connect(refuse_correction_of_signed)
        withdrawing_attempt.connect(refuse_attempt_that_left)
        withdrawing_picture.connect(refuse_picture_that_left)
        ruling.connect(refuse_ruling_of_signed)
        outlines_changed.connect(refuse_work_on_signed)
        ruling_outside.connect(refuse_work_on_signed)
        renewing_original.connect(refuse_work_on_signed)
