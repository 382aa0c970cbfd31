from django.urls import path, re_path

from studio.api import api
from studio.pages import page

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/|static/).*$", page),
]
