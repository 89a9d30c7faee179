"""Put a method's cautions away."""

from django.contrib.auth.models import User

from brunt_core.methods.base import Method
from brunt_web.testing.models import DismissedCaution


def dismiss(user: User, method: Method) -> None:
    """This person has read the cautions as they stand; a later version shows again."""
    DismissedCaution.objects.get_or_create(user=user, method_key=method.key, version=method.version)
