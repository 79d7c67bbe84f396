"""Every URL. What a programme owns lies under its name."""

from django.conf import settings
from django.urls import include, path, register_converter

from kessa.accounts import account_views as account
from kessa.accounts import join_views as join
from kessa.accounts import people_views as people
from kessa.accounts import views as accounts
from kessa.bench import run_views as bench_runs
from kessa.bench import views as bench
from kessa.library import views as library
from kessa.library.converters import Number
from kessa.log import correct_views as correct
from kessa.log import review_views as review
from kessa.log import views as log
from kessa.records import views as records
from kessa.search import views as search
from kessa.sync import views as sync
from kessa.ui import views as ui
from kessa.visits import views as visits
from kessa.waters import change_views as change
from kessa.waters import views as waters

register_converter(Number, "number")

in_programme = [
    path("today/", waters.today, name="today"),
    path("waters/", waters.index, name="waters"),
    path("waters/<int:water_id>/change/", change.change_water, name="change-water"),
    path("points/new/", change.new_point, name="new-point"),
    path("points/<int:point_id>/", waters.point, name="point"),
    path("points/<int:point_id>/change/", change.change_point, name="change-point"),
    path("points/<int:point_id>/test/", visits.begin, name="begin-test"),
    path("samples/<int:sample_id>/safety/", visits.safety, name="safety"),
    path("samples/<int:sample_id>/change/", visits.change_test, name="change-test"),
    path("samples/<int:sample_id>/cancel/", visits.cancel, name="cancel-sample"),
    path("samples/<int:sample_id>/context/", visits.context, name="context"),
    path("samples/<int:sample_id>/sample/", visits.take, name="take-sample"),
    path("bench/", bench.index, name="bench-list"),
    path("bench/<uuid:run_id>/", bench.run, name="bench"),
    path("bench/<uuid:run_id>/capability/", sync.capability, name="capability"),
    path("events/", sync.receive, name="events"),
    path("bench/<uuid:run_id>/cancel/", bench_runs.cancel, name="cancel-run"),
    path("bench/<uuid:run_id>/change/", bench_runs.change, name="change-run"),
    path("bench/<uuid:run_id>/end/", bench_runs.end, name="end-run"),
    path("bench/<uuid:run_id>/hand-over/", bench_runs.hand_over, name="hand-over-run"),
    path("log/", log.index, name="log"),
    path("log.csv", log.csv, name="log-csv"),
    path("results/<int:result_id>/", log.result, name="result"),
    path("results/<int:result_id>/events.jsonl", log.events, name="result-events"),
    path("results/<int:result_id>/correct/", correct.reading, name="correct-reading"),
    path("results/<int:result_id>/correct-sample/", correct.sample, name="correct-sample"),
    path("results/<int:result_id>/answer/", review.reply, name="answer"),
    path("review/", review.queue, name="review"),
    path("review/<int:result_id>/", review.decision, name="decide"),
    path("library/", library.index, name="library"),
    path("library/lots/new/", library.new_lot, name="new-lot"),
    path("library/<slug:method_id>/choices/", library.choices, name="choices"),
    path("library/<slug:method_id>/newer/", library.use_newer, name="use-newer"),
    path("library/<slug:method_id>/<number:number>/", library.method, name="method"),
    path("search/", search.search, name="search"),
    path("people/", people.people, name="people"),
    path("people/invite/", people.invite, name="invite"),
    path(
        "people/codes/<int:invitation_id>/withdraw/",
        people.withdraw_invitation,
        name="withdraw-invitation",
    ),
    path("people/<int:membership_id>/", people.member, name="member"),
    path("people/<int:membership_id>/role/", people.role, name="member-role"),
    path("people/<int:membership_id>/withdraw/", people.withdraw, name="member-withdraw"),
    path("people/<int:membership_id>/reset/", people.reset, name="member-reset"),
    path(
        "people/<int:membership_id>/pseudonymise/",
        people.pseudonymise,
        name="member-pseudonymise",
    ),
    path("settings/", people.settings, name="settings"),
    path("settings/work/", people.work, name="work"),
    path("audit/", records.index, name="audit"),
    path("audit.jsonl", records.export, name="audit-export"),
]

own_account = [
    path("", account.account, name="account"),
    path("name/", account.name, name="account-name"),
    path("password/", account.password, name="account-password"),
    path("codes/", account.codes, name="codes"),
    path("codes/off/", account.codes_off, name="codes-off"),
    path("devices/<int:sign_in_id>/", account.sign_out_device, name="sign-out-device"),
    path("sending/all/", account.revoke_every_device, name="revoke-every-device"),
    path("sending/<int:capability_id>/", account.revoke_device, name="revoke-device"),
    path("leave/<int:membership_id>/", account.leave, name="leave"),
    path("close/", account.leave_for_good, name="leave-for-good"),
]

urlpatterns = [
    path("", accounts.home, name="home"),
    path("programmes/", accounts.programmes, name="programmes"),
    path("programmes/new/", accounts.new_programme, name="new-programme"),
    path("sign-in/", accounts.sign_in, name="sign-in"),
    path("sign-in/code/", accounts.sign_in_code, name="sign-in-code"),
    path("sign-in/forgotten/", accounts.forgotten, name="forgotten"),
    path("sign-out/", accounts.sign_out, name="sign-out"),
    path("join/", join.join, name="join"),
    path("join/as/", join.join_as, name="join-as"),
    path("account/", include(own_account)),
    path("append/", sync.append, name="append"),
    path("health/", ui.health, name="health"),
    path("sw.js", ui.service_worker, name="service-worker"),
    path("p/<slug:programme>/", include(in_programme)),
]
if settings.DEBUG:
    urlpatterns += [path("style/", ui.style, name="style")]
