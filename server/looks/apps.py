from django.apps import AppConfig


class LooksConfig(AppConfig):
    name = "looks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from checks.events import check_finished
        from history.events import recorded

        from .carrying import carry_marks
        from .models import whoever_ruled_saw

        recorded.connect(whoever_ruled_saw)
        check_finished.connect(carry_marks)
