from django.apps import AppConfig


class CrewConfig(AppConfig):
    name = "crew"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import tidy

        from .inviting import forget_ended

        tidy(forget_ended)
