"""The WSGI application. What every page needs is imported before the fork, the heavy rest behind the first pages."""

from importlib import import_module

from django.conf import settings
from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()
import_module(settings.ROOT_URLCONF)
