"""Where everything is."""

from __future__ import annotations

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from nettlecap.marking import views as marking
from nettlecap.pages import views as pages
from nettlecap.takes import views as takes

urlpatterns = [
    path("sign-in", login_not_required(auth.LoginView.as_view(redirect_authenticated_user=True)), name="sign-in"),
    path("sign-out", auth.LogoutView.as_view(), name="sign-out"),
    path("", pages.start, name="start"),
    path("courses/<int:course_id>/briefs/new", pages.new_brief, name="new-brief"),
    path("briefs/<int:brief_id>", pages.brief, name="brief"),
    path("briefs/<int:brief_id>/edit", pages.edit_brief, name="edit-brief"),
    path("briefs/<int:brief_id>/hand-in", takes.hand_in_take, name="hand-in"),
    path("takes/<int:take_id>", pages.take, name="take"),
    path("takes/<int:take_id>/state", pages.take_state, name="take-state"),
    path("takes/<int:take_id>/drawings/<int:run>/<int:number>.png", takes.drawing, name="drawing"),
    path("takes/<int:take_id>/findings.json", takes.findings_file, name="findings-file"),
    path("takes/<int:take_id>/track.csv", takes.track_table, name="track-table"),
    path("takes/<int:take_id>/marks", marking.returned, name="returned"),
    path("desk", marking.next_clip, name="next-clip"),
    path("takes/<int:take_id>/desk", marking.desk, name="desk"),
    path("takes/<int:take_id>/desk/say", marking.say, name="say"),
    path("takes/<int:take_id>/desk/notes", marking.note, name="note"),
    path("takes/<int:take_id>/desk/notes/<int:note_id>/take-back", marking.take_back_note, name="take-back-note"),
    path("takes/<int:take_id>/desk/points", marking.points, name="points"),
    path("takes/<int:take_id>/desk/remark", marking.remark, name="remark"),
    path("takes/<int:take_id>/desk/return", marking.return_marks, name="return-marks"),
    path("takes/<int:take_id>/desk/reopen", marking.reopen, name="reopen"),
]
