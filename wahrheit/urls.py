"""All doors."""

from django.conf import settings
from django.contrib.auth.views import LogoutView
from django.urls import include, path

from casework.shop.views import SignIn
from wahrheit.styleguide import styleguide
from wahrheit.views import demo_photos, health

handler400 = "wahrheit.views.refused"
handler500 = "wahrheit.views.broken"
urlpatterns = [
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("health/", health, name="health"),
    path("demo/photos.zip", demo_photos, name="demo-photos"),
    path("", include("casework.urls")),
    path("", include("pairs.urls")),
    path("", include("reports.urls")),
    path("", include("drills.urls")),
]
if settings.DEBUG:
    urlpatterns.append(path("styleguide/", styleguide, name="styleguide"))
