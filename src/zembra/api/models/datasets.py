"""Files that were received."""

from __future__ import annotations

from pydantic import BaseModel


class DatasetView(BaseModel):
    id: int
    name: str
    size: int
    sha256: str
    received_at: str


class DatasetList(BaseModel):
    datasets: list[DatasetView]


class DemoFile(BaseModel):
    name: str
    about: str


class DemoFiles(BaseModel):
    files: list[DemoFile]
