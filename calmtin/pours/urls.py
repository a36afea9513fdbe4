from django.urls import path

from calmtin.pours import views

app_name = "pours"
urlpatterns = [
    path("", views.today, name="today"),
    path("pours/", views.pour_list, name="list"),
    path("pours/<int:pk>/", views.pour, name="pour"),
    path("pours/<int:pk>/weigh/<int:position>/", views.weigh, name="weigh"),
    path("pours/<int:pk>/take-back/", views.take_back, name="take_back"),
    path("pours/<int:pk>/finish/", views.finish, name="finish"),
    path("pours/<int:pk>/check/", views.check, name="check"),
    path("formulas/<int:pk>/v/<int:number>/fill/", views.fill, name="fill"),
    path("formulas/<int:pk>/pours/", views.history, name="history"),
]
