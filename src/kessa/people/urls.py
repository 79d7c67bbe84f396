"""Addresses of this app."""

from django.urls import include, path

from kessa.people import account_views, join_views, people_views, views

menu_place = ""
in_programme = [
    path("people/", people_views.people, name="people"),
    path("people/invite/", people_views.invite, name="invite"),
    path(
        "people/codes/<int:invitation_id>/withdraw/",
        people_views.withdraw_invitation,
        name="withdraw-invitation",
    ),
    path("people/<int:membership_id>/", people_views.member, name="member"),
    path("people/<int:membership_id>/role/", people_views.role, name="member-role"),
    path("people/<int:membership_id>/withdraw/", people_views.withdraw, name="member-withdraw"),
    path("people/<int:membership_id>/reset/", people_views.reset, name="member-reset"),
    path(
        "people/<int:membership_id>/pseudonymise/",
        people_views.pseudonymise,
        name="member-pseudonymise",
    ),
    path("settings/", people_views.settings, name="settings"),
    path("settings/work/", people_views.work, name="work"),
]

own_account = [
    path("", account_views.account, name="account"),
    path("name/", account_views.name, name="account-name"),
    path("password/", account_views.password, name="account-password"),
    path("codes/", account_views.codes, name="codes"),
    path("codes/off/", account_views.codes_off, name="codes-off"),
    path("devices/<int:sign_in_id>/", account_views.sign_out_device, name="sign-out-device"),
    path("sending/all/", account_views.revoke_every_device, name="revoke-every-device"),
    path("sending/<int:capability_id>/", account_views.revoke_device, name="revoke-device"),
    path("leave/<int:membership_id>/", account_views.leave, name="leave"),
    path("close/", account_views.leave_for_good, name="leave-for-good"),
]

everywhere = [
    path("", views.home, name="home"),
    path("programmes/", views.programmes, name="programmes"),
    path("programmes/new/", views.new_programme, name="new-programme"),
    path("sign-in/", views.sign_in, name="sign-in"),
    path("sign-in/code/", views.sign_in_code, name="sign-in-code"),
    path("password-strength/", views.password_strength, name="password-strength"),
    path("sign-in/forgotten/", views.forgotten, name="forgotten"),
    path("sign-out/", views.sign_out, name="sign-out"),
    path("join/", join_views.join, name="join"),
    path("join/as/", join_views.join_as, name="join-as"),
    path("account/", include(own_account)),
]
