from django.urls import path

from calmtin.overview import views

app_name = "overview"
urlpatterns = [
    path("", views.today, name="today"),
    path("checks.ics", views.calendar, name="calendar"),
]
