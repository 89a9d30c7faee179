"""Addresses of the bench, the specimen, its clock and its curve."""

from django.urls import path

from brunt_web.interface.later import later
from brunt_web.testing import names  # noqa: F401  (registers the converters of IDs)

curve_views = later("brunt_web.testing.curve_views")
mixup_views = later("brunt_web.testing.mixup_views")
picture_views = later("brunt_web.testing.picture_views")
specimen_views = later("brunt_web.testing.specimen_views")
timed_views = later("brunt_web.testing.timed_views")
views = later("brunt_web.testing.views")

urlpatterns = [
    path("campaigns/<int:pk>/bench/", views.bench, name="bench"),
    path("specimens/<code:code>/", specimen_views.specimen, name="specimen"),
    path("specimens/<code:code>/another/", specimen_views.another, name="another"),
    path("specimens/<code:code>/weigh/", specimen_views.weigh, name="weigh"),
    path("specimens/<code:code>/note/", specimen_views.note, name="note-specimen"),
    path("specimens/<code:code>/name/", specimen_views.name, name="name-specimen"),
    path("specimens/<code:code>/photo/", specimen_views.photo, name="photo"),
    path("specimens/<code:code>/photo/<int:pk>/off/", specimen_views.photo_off, name="photo-off"),
    path("photos/<int:pk>/measure/", picture_views.measure, name="measure-photo"),
    path("photos/<int:pk>/measure/look/", picture_views.look, name="look-at-photo"),
    path("photos/<int:pk>/measure/keep/", picture_views.keep, name="keep-picks"),
    path("photos/<int:pk>/measure/<int:reading>/", picture_views.into_field, name="into-field"),
    path("photos/<int:pk>.jpg", specimen_views.photo_file, name="photo-file"),
    path("specimens/<code:code>/swap/", mixup_views.swap, name="swap"),
    path("specimens/<code:code>/role/", mixup_views.role, name="role"),
    path("specimens/<code:code>/events/<int:pk>/back/", mixup_views.back, name="event-back"),
    path("specimens/<turn:at>/move/", mixup_views.move, name="move-test"),
    path("specimens/<turn:at>/leave-out/", specimen_views.leave_out, name="leave-out"),
    path("specimens/<turn:at>/count/", specimen_views.count, name="count"),
    path("specimens/<turn:at>/bench/", views.bench_specimen, name="bench-specimen"),
    path("specimens/<turn:at>/bench/try/", views.try_out, name="attempt"),
    path("specimens/<turn:at>/bench/ahead/", views.ahead, name="ahead"),
    path("specimens/<turn:at>/bench/queue/", views.queue, name="queue"),
    path("specimens/<turn:at>/bench/undo/", views.undo, name="undo"),
    path("specimens/<turn:at>/bench/skip/", views.skip, name="skip"),
    path("specimens/<turn:at>/bench/daily/", views.daily, name="daily"),
    path("specimens/<turn:at>/bench/read/", views.dismiss_cautions, name="dismiss-cautions"),
    path("specimens/<turn:at>/clock/start/", timed_views.start, name="clock-start"),
    path("specimens/<turn:at>/clock/take/", timed_views.take, name="clock-take"),
    path("specimens/<turn:at>/clock/pass/", timed_views.pass_over, name="clock-pass"),
    path("specimens/<turn:at>/clock/undo/", timed_views.undo, name="clock-undo"),
    path("specimens/<turn:at>/clock/finish/", timed_views.finish, name="clock-finish"),
    path("specimens/<turn:at>/curve/", curve_views.curve, name="curve"),
    path("specimens/<turn:at>/curve/pick/", curve_views.pick, name="curve-pick"),
    path("specimens/<turn:at>/curve/answer/", curve_views.answer, name="curve-answer"),
    path("specimens/<turn:at>/curve/share/", curve_views.share, name="curve-share"),
    path("specimens/<turn:at>/curve/forget/", curve_views.forget, name="curve-forget"),
    path("specimens/<turn:at>/curve/spikes/out/", curve_views.spikes_out, name="spikes-out"),
    path("specimens/<turn:at>/curve/spikes/in/", curve_views.spikes_in, name="spikes-in"),
    path("specimens/<turn:at>/curve/off/", curve_views.take_off, name="curve-off"),
    path("specimens/<turn:at>/curve/restore/", curve_views.restore, name="curve-restore-all"),
    path(
        "specimens/<turn:at>/curve/restore/<slug:point>/",
        curve_views.restore,
        name="curve-restore",
    ),
]
