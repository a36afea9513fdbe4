from django.urls import path

from calmtin.pours.views import list, pour, rehearsal, run

app_name = "pours"
urlpatterns = [
    path("pours/", list.pour_list, name="list"),
    path("pours/stove/", list.on_stove, name="on_stove"),
    path("pours/<row:pk>/", pour.pour, name="pour"),
    path("pours/<row:pk>/weigh/<row:position>/", pour.weigh, name="weigh"),
    path("pours/<row:pk>/weigh/<row:position>/preview/", pour.weigh_preview, name="weigh_preview"),
    path("pours/<row:pk>/weigh-into/", pour.weigh_into, name="weigh_into"),
    path("pours/<row:pk>/melting/", run.melting, name="melting"),
    path("pours/<row:pk>/pot-weight/", run.pot_weight, name="pot_weight"),
    path("pours/<row:pk>/finish/<row:part>/", run.weigh_finish, name="weigh_finish"),
    path("pours/<row:pk>/set-test/", run.set_test, name="set_test"),
    path("pours/<row:pk>/correct/", pour.correct, name="correct"),
    path("pours/<row:pk>/run/", run.run, name="run"),
    path("pours/<row:pk>/route/", run.route, name="route"),
    path("pours/<row:pk>/run/<slug:key>/", run.step, name="step"),
    path("pours/<row:pk>/timer/<slug:key>/", run.timer, name="timer"),
    path("pours/<row:pk>/feel/", run.feel, name="feel"),
    path("pours/<row:pk>/next-sample/", pour.next_sample, name="next_sample"),
    path("pours/<row:pk>/next-version/", pour.next_version, name="next_version"),
    path("pours/<row:pk>/reading/", run.reading, name="reading"),
    path("pours/<row:pk>/live/<slug:of>/", rehearsal.live, name="live"),
    path("pours/<row:pk>/stove/<slug:of>/", rehearsal.act, name="stove"),
    path("rehearse/", rehearsal.first, name="first_rehearsal"),
    path("pours/<row:pk>/delete/", rehearsal.delete_rehearsal, name="rehearsal_delete"),
    path("pours/<row:pk>/scale-up/", pour.scale_up, name="scale_up"),
    path("pours/<row:pk>/add/", pour.add_to_pot, name="add_to_pot"),
    path("pours/<row:pk>/count/", pour.count, name="count"),
    path("pours/<row:pk>/undo/", pour.undo_weight, name="undo"),
    path("pours/<row:pk>/finish/", pour.finish, name="finish"),
    path("pours/<row:pk>/cancel/", pour.cancel_pour, name="cancel"),
]
