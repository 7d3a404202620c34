"""Sending marks to a school's system: the worker's part."""

from __future__ import annotations

from django.utils import timezone

from nettlecap.errors import Refusal
from nettlecap.school.models import CourseLink, Sending, Sent
from nettlecap.school.services import Member, SchoolTrouble, Score, Services
from nettlecap.school.state import Given, link_of, news_of, who_is_who


def send(sending_id: int) -> str:
    """Send what was asked for; the worker's part. What is sent is kept one by one, so that nothing is sent twice."""
    sending = Sending.objects.select_related("brief__course", "by").filter(pk=sending_id, ended_at=None).first()
    if sending is None:
        return "gone"
    trouble, left_out = "", []
    try:
        link = link_of(sending.by, sending.brief.course)
        with Services(link.system.token_url, link.system.client_id) as services:
            left_out = _send_all(services, link, sending)
    except Refusal as refusal:
        trouble = str(refusal)[:300]
    Sending.objects.filter(pk=sending.pk).update(trouble=trouble, left_out=left_out, ended_at=timezone.now())
    return trouble or "sent"


def _send_all(services: Services, link: CourseLink, sending: Sending) -> list[str]:
    brief, left_out = sending.brief, []
    news = news_of(brief)
    known = who_is_who([g.take.student for g in news], services.members(link.members_url))
    item = services.line_item(
        link.lineitems_url, resource=f"nettlecap-brief-{brief.pk}", label=brief.title, most=sum(brief.points.values())
    )
    for given in news:
        student, member = given.take.student, known.get(given.take.student_id)
        if member is None:
            left_out.append(f"{student.name} is not known there.")
            continue
        try:
            _send_one(services, item, member, given)
        except SchoolTrouble as trouble:
            left_out.append(f"{student.name}: {trouble}")
            continue
        sending.sent += 1
        sending.save(update_fields=["sent"])
    return left_out


def _send_one(services: Services, item: str, member: Member, given: Given) -> None:
    now = timezone.now()
    total, most = given.grade.total, given.grade.most
    services.send(item, Score(member=member.number, given=total, most=most, comment=given.comment, at=now))
    Sent.objects.update_or_create(
        brief_id=given.take.brief_id,
        student_id=given.take.student_id,
        defaults={"total": total, "most": most, "sent_at": now},
    )
