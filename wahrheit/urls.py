"""All doors."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import include, path

from wahrheit.views import demo_photos

urlpatterns = [
    path("sign-in/", LoginView.as_view(template_name="sign_in.html", redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("demo/photos.zip", demo_photos, name="demo-photos"),
    path("", include("casework.urls")),
    path("", include("pairs.urls")),
    path("", include("reports.urls")),
]
