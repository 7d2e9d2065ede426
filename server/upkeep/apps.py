from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "upkeep"

    def ready(self) -> None:
        from people.sessions import forget_ended
        from work.registry import tidy

        tidy(forget_ended)
