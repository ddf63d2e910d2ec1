from django.urls import path

from casework import views

urlpatterns = [
    path("", views.counter, name="counter"),
    path("cases/start/", views.start, name="start"),
    path("cases/<int:number>/intake/", views.intake, name="intake"),
    path("cases/<int:number>/photos/", views.photos, name="photos"),
    path("cases/<int:number>/measure/", views.measure, name="measure"),
    path("cases/<int:number>/progress/", views.progress, name="progress"),
    path("cases/<int:number>/bench/", views.bench, name="bench"),
    path("cases/<int:number>/bench/<slug:key>/", views.bench, name="bench-at"),
    path("cases/<int:number>/bench/<slug:key>/<slug:deed>/", views.work, name="work"),
    path("cases/<int:number>/verdict/", views.verdict, name="verdict"),
    path("cases/<int:number>/policy/", views.policy, name="policy"),
]
