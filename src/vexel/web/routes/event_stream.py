"""Blueprint: news for pages without a stream of events."""

from flask import Blueprint
from pydantic import BaseModel

from vexel.web.schemas.news import NewsBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("news", __name__, url_prefix="/api")


class NewsQuery(BaseModel):
    """From where on."""

    since: str = ""


@blueprint.get("/news")
@spec.validate(resp=answers(NewsBody))
def news(query: NewsQuery) -> NewsBody:
    """What has happened since a mark that an earlier answer gave."""
    mark, since, gap = services().events.since(query.since)
    return NewsBody(mark=mark, news=since, gap=gap)
