from django.apps import AppConfig


class ImagesConfig(AppConfig):
    name = "images"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import SOON, register, tidy

        from . import aiding, pyramids
        from .collecting import collect

        register(pyramids.WORK, pyramids.run_pyramid, queue=SOON)
        register(aiding.WORK, aiding.run_aid, queue=SOON)
        tidy(collect)
