from django.urls import path

from calmtin.pours.views import fill, learned, pour, rehearsal, run, today

app_name = "pours"
urlpatterns = [
    path("", today.today, name="today"),
    path("pours/", today.pour_list, name="list"),
    path("pours/<row:pk>/", pour.pour, name="pour"),
    path("pours/<row:pk>/weigh/<row:position>/", pour.weigh, name="weigh"),
    path("pours/<row:pk>/weigh-into/", pour.weigh_into, name="weigh_into"),
    path("pours/<row:pk>/finish/<row:part>/", run.weigh_finish, name="weigh_finish"),
    path("pours/<row:pk>/set-test/", run.set_test, name="set_test"),
    path("pours/<row:pk>/correct/", pour.correct, name="correct"),
    path("pours/<row:pk>/run/", run.run, name="run"),
    path("pours/<row:pk>/route/", run.route, name="route"),
    path("pours/<row:pk>/run/<slug:key>/", run.step, name="step"),
    path("pours/<row:pk>/timer/<slug:key>/", run.timer, name="timer"),
    path("pours/<row:pk>/feel/", run.feel, name="feel"),
    path("pours/<row:pk>/next-version/", pour.next_version, name="next_version"),
    path("pours/<row:pk>/reading/", run.reading, name="reading"),
    path("pours/<row:pk>/live/<slug:of>/", rehearsal.live, name="live"),
    path("pours/<row:pk>/stove/<slug:of>/", rehearsal.act, name="stove"),
    path("pours/<row:pk>/throw-away/", rehearsal.throw_away, name="throw_away"),
    path("pours/<row:pk>/scale-up/", pour.scale_up, name="scale_up"),
    path("pours/<row:pk>/add/", pour.add_to_pot, name="add_to_pot"),
    path("pours/<row:pk>/count/", pour.count, name="count"),
    path("pours/<row:pk>/take-back/", pour.take_back, name="take_back"),
    path("pours/<row:pk>/finish/", pour.finish, name="finish"),
    path("pours/<row:pk>/call-off/", pour.call_off, name="call_off"),
    path("pours/<row:pk>/check/", pour.check, name="check"),
    path("learned/", learned.learned, name="learned"),
    path("checks/<row:pk>/leave-out/", learned.leave_out, name="leave_out"),
    path("formulas/<row:pk>/v/<row:number>/fill/", fill.fill, name="fill"),
    path("formulas/<row:pk>/v/<row:number>/fill/sheet/", fill.sheet, name="fill_sheet"),
    path("formulas/<row:pk>/v/<row:number>/series/", fill.series, name="series"),
    path("formulas/<row:pk>/v/<row:number>/fill/dilute/<slug:key>/", fill.dilute, name="dilute"),
    path("formulas/<row:pk>/pours/", pour.history, name="history"),
]
