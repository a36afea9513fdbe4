from django.urls import path

from calmtin.help import views

app_name = "help"
urlpatterns = [
    path("help/", views.index, name="index"),
    path("help/<slug:slug>/", views.topic, name="topic"),
]
