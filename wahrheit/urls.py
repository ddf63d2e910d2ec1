"""All doors."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import include, path

urlpatterns = [
    path("sign-in/", LoginView.as_view(template_name="sign_in.html", redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("", include("casework.urls")),
    path("", include("pairs.urls")),
    path("", include("reports.urls")),
]
