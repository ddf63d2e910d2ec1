"""Addresses of the drills."""

from django.urls import path

from drills import views

urlpatterns = [
    path("drills/", views.home, name="drills"),
    path("drills/next/", views.next_, name="drill-next"),
    path("drills/sharing/", views.sharing, name="drill-sharing"),
    path("drills/answers.json", views.export, name="drill-export"),
    path("drills/cards/<str:key>/", views.card, name="drill-card"),
    path("drills/cards/<str:key>/<int:n>.jpg", views.picture, name="drill-picture"),
]
