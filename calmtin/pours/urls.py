from django.urls import path

from calmtin.pours import views

app_name = "pours"
urlpatterns = [
    path("", views.today, name="today"),
    path("pours/", views.pour_list, name="list"),
    path("pours/<row:pk>/", views.pour, name="pour"),
    path("pours/<row:pk>/weigh/<row:position>/", views.weigh, name="weigh"),
    path("pours/<row:pk>/take-back/", views.take_back, name="take_back"),
    path("pours/<row:pk>/finish/", views.finish, name="finish"),
    path("pours/<row:pk>/check/", views.check, name="check"),
    path("formulas/<row:pk>/v/<row:number>/fill/", views.fill, name="fill"),
    path("formulas/<row:pk>/pours/", views.history, name="history"),
]
