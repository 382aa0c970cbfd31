from django.urls import path, re_path

from studio.api import api
from studio.pages import client_page, no_such_address, page, robots

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/", no_such_address),
    path("robots.txt", robots),
    path("showing/<str:token>", client_page),
    re_path(r"^(?!api/|assets/|static/).*$", page),
]
