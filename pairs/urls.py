from django.urls import re_path

from pairs import views

urlpatterns = [re_path(r"^photos/(?P<pk>\d+)/(?P<size>full|preview)/$", views.photo, name="photo")]
