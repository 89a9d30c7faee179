"""The WSGI application, with everything imported before the server forks."""

from django.core.wsgi import get_wsgi_application

from brunt_web.interface.preload import import_everything

application = get_wsgi_application()
import_everything()
