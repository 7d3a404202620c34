"""Where everything is."""

from __future__ import annotations

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from nettlecap.marking import beside, over, returned
from nettlecap.marking import views as marking
from nettlecap.pages import briefs, classes
from nettlecap.pages import views as pages
from nettlecap.takes import views as takes

urlpatterns = [
    path("sign-in", login_not_required(auth.LoginView.as_view(redirect_authenticated_user=True)), name="sign-in"),
    path("sign-out", auth.LogoutView.as_view(), name="sign-out"),
    path("", pages.start, name="start"),
    path("courses/<int:course_id>/wall", classes.class_wall, name="class-wall"),
    path("courses/<int:course_id>/grades.<str:kind>", classes.grades_file, name="grades-file"),
    path("briefs/<int:brief_id>/show/<str:code>", classes.show_clips, name="show-clips"),
    path("courses/<int:course_id>/briefs/new", briefs.new_brief, name="new-brief"),
    path("courses/<int:course_id>/briefs/live", briefs.live, name="live-guide"),
    path("courses/<int:course_id>/briefs/start-values", briefs.start_values, name="start-values"),
    path("courses/<int:course_id>/briefs/import", briefs.import_brief, name="import-brief"),
    path("briefs/<int:brief_id>", briefs.brief, name="brief"),
    path("briefs/<int:brief_id>/edit", briefs.edit_brief, name="edit-brief"),
    path("briefs/<int:brief_id>/publish", briefs.publish, name="publish-brief"),
    path("briefs/<int:brief_id>/copy", briefs.copy, name="copy-brief"),
    path("briefs/<int:brief_id>/brief.json", briefs.export, name="export-brief"),
    path("briefs/<int:brief_id>/guide/<str:kind>", briefs.guide_file, name="guide-file"),
    path("briefs/<int:brief_id>/hand-in", takes.hand_in_take, name="hand-in"),
    path("briefs/<int:brief_id>/check", takes.check_clip, name="check-clip"),
    path("briefs/<int:brief_id>/look-through", takes.look_clip_through, name="look-through"),
    path("briefs/<int:brief_id>/capture-stand", takes.capture_stand, name="capture-stand"),
    path("briefs/<int:brief_id>/capture-stand/<int:sheet>/<int:shot>.png", takes.stand_picture, name="stand-picture"),
    path("takes/<int:take_id>/put-right", takes.put_clip_right, name="put-right"),
    path("takes/<int:take_id>/throw-away", takes.throw_away, name="throw-away"),
    path("takes/<int:take_id>/place", pages.place, name="place"),
    path("takes/<int:take_id>/sound", takes.sound, name="sound"),
    path("takes/<int:take_id>/receipt.txt", takes.receipt, name="receipt"),
    path("takes/<int:take_id>/hand-in", takes.hand_in_checked, name="make-final"),
    path("takes/<int:take_id>", pages.take, name="take"),
    path("takes/<int:take_id>/state", pages.take_state, name="take-state"),
    path("takes/<int:take_id>/drawings/<int:run>/<int:number>.png", takes.drawing, name="drawing"),
    path("takes/<int:take_id>/export/<str:kind>", over.export_take, name="export-take"),
    path("takes/<int:take_id>/findings.json", takes.findings_file, name="findings-file"),
    path("takes/<int:take_id>/track.csv", takes.track_table, name="track-table"),
    path("takes/<int:take_id>/desk/retime", beside.retime, name="retime"),
    path("takes/<int:take_id>/desk/proposal", beside.propose_timing, name="propose-timing"),
    path("takes/<int:take_id>/proposal.<str:kind>", beside.proposed_sheet, name="proposed-sheet"),
    path("takes/<int:take_id>/beside/<int:other_id>", beside.beside_take, name="beside-take"),
    path("takes/<int:take_id>/beside/guide", beside.beside_guide, name="beside-guide"),
    path("takes/<int:take_id>/mended", beside.mended, name="mended"),
    path("takes/<int:take_id>/mended/<slug:name>/<int:index>.png", beside.mended_picture, name="mended-picture"),
    path("takes/<int:take_id>/marks", returned.returned, name="returned"),
    path("takes/<int:take_id>/marks.pdf", returned.marks_pdf, name="marks-pdf"),
    path("takes/<int:take_id>/marks/tick", returned.tick, name="tick"),
    path("takes/<int:take_id>/marks/notes/<int:note_id>/answer", returned.answer, name="answer"),
    path("checks", pages.checks, name="checks"),
    path("clips", marking.clips, name="clips"),
    path("desk", marking.next_clip, name="next-clip"),
    path("takes/<int:take_id>/desk", marking.desk, name="desk"),
    path("takes/<int:take_id>/desk/again", marking.looked_at_again, name="looked-at-again"),
    path("takes/<int:take_id>/desk/say", marking.say, name="say"),
    path("takes/<int:take_id>/desk/phrases", beside.offered_phrases, name="phrases"),
    path("takes/<int:take_id>/desk/phrases/<int:phrase_id>/forget", beside.forget_phrase, name="forget-phrase"),
    path("takes/<int:take_id>/desk/call", marking.call, name="call"),
    path("takes/<int:take_id>/desk/first-look", marking.first_look, name="first-look"),
    path("takes/<int:take_id>/desk/take-back", marking.take_back, name="take-back"),
    path("takes/<int:take_id>/desk/notes", marking.note, name="note"),
    path("takes/<int:take_id>/desk/notes/<int:note_id>/take-back", marking.take_back_note, name="take-back-note"),
    path("takes/<int:take_id>/desk/strokes", over.draw, name="draw-over"),
    path("takes/<int:take_id>/desk/strokes/<int:stroke_id>/wipe", over.wipe, name="wipe"),
    path("takes/<int:take_id>/desk/points", marking.points, name="points"),
    path("takes/<int:take_id>/desk/remark", marking.remark, name="remark"),
    path("takes/<int:take_id>/desk/return", marking.return_marks, name="return-marks"),
    path("takes/<int:take_id>/desk/history", marking.history, name="history"),
    path("takes/<int:take_id>/desk/reopen", marking.reopen, name="reopen"),
]
