"""Every URL. What a programme owns lies under its name."""

from django.conf import settings
from django.urls import include, path

from kessa.accounts import views as accounts
from kessa.bench import views as bench
from kessa.library import views as library
from kessa.log import views as log
from kessa.sync import views as sync
from kessa.ui import views as ui
from kessa.visits import views as visits
from kessa.waters import views as waters

in_programme = [
    path("today/", waters.today, name="today"),
    path("waters/", waters.index, name="waters"),
    path("points/<int:point_id>/", waters.point, name="point"),
    path("points/<int:point_id>/test/", visits.begin, name="begin-test"),
    path("samples/<int:sample_id>/safety/", visits.safety, name="safety"),
    path("samples/<int:sample_id>/context/", visits.context, name="context"),
    path("samples/<int:sample_id>/sample/", visits.take, name="take-sample"),
    path("bench/", bench.index, name="bench-list"),
    path("bench/<uuid:run_id>/", bench.run, name="bench"),
    path("events/", sync.receive, name="events"),
    path("log/", log.index, name="log"),
    path("log.csv", log.csv, name="log-csv"),
    path("results/<int:result_id>/", log.result, name="result"),
    path("results/<int:result_id>/events.jsonl", log.events, name="result-events"),
    path("library/", library.index, name="library"),
    path("library/<slug:method_id>/<int:version>/", library.method, name="method"),
]

urlpatterns = [
    path("", accounts.home, name="home"),
    path("sign-in/", accounts.sign_in, name="sign-in"),
    path("sign-out/", accounts.sign_out, name="sign-out"),
    path("sw.js", ui.service_worker, name="service-worker"),
    path("p/<slug:programme>/", include(in_programme)),
]
if settings.DEBUG:
    urlpatterns += [path("style/", ui.style, name="style")]
