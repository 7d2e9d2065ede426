from django.apps import AppConfig


class LooksConfig(AppConfig):
    name = "looks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from history.events import recorded

        from .models import whoever_ruled_saw

        recorded.connect(whoever_ruled_saw)
