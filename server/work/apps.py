from django.apps import AppConfig


class WorkConfig(AppConfig):
    name = "work"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from .registry import tidy
        from .tidying import forget_done

        tidy(forget_done)
