"""What the browser gets of notices."""

from datetime import datetime

from pydantic import BaseModel


class NoticeOut(BaseModel):
    id: int
    at: datetime
    sentence: str
