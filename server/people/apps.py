from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "people"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import tidy

        from .sessions import forget_ended

        tidy(forget_ended)
