"""Pictures off the card."""

from typing import Annotated

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema, Status, UploadedFile
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import user_of
from widedusk.records.pictures.models import Picture
from widedusk.records.pictures.pictures import folder_pictures, header_of, let_go, pictures_of, take_from_folder, take_upload

router = Router(tags=["pictures"])
MOST_NAMES = 40


class PictureOut(Schema):
    """A picture and what its file says of itself; taken is the camera's own clock, without a zone."""

    id: int
    name: str
    kind: str
    width_px: int
    height_px: int
    taken: str | None
    utc_offset_min: int | None
    exposure_s: float | None
    focal_mm: float | None
    iso: int | None
    f_number: float | None
    here: bool  # its file can still be measured
    measured: bool

    @staticmethod
    def of(row: Picture) -> "PictureOut":
        header = header_of(row)
        return PictureOut(
            id=row.pk,
            name=row.name,
            kind=header.kind,
            width_px=header.width_px,
            height_px=header.height_px,
            taken=header.taken.isoformat() if header.taken else None,
            utc_offset_min=header.utc_offset_min,
            exposure_s=header.exposure_s,
            focal_mm=header.focal_mm,
            iso=header.iso,
            f_number=header.f_number,
            here=bool(row.file),
            measured=row.solution is not None,
        )


class FolderItem(Schema):
    name: str


@router.get("/folder", response=list[FolderItem])
@paginate
def folder(request: HttpRequest) -> list[dict[str, str]]:
    """Pictures in the folder of this machine from which one may choose; none where no folder is set."""
    return [{"name": name} for name in folder_pictures()]


class NamesIn(Schema):
    names: Annotated[list[str], Field(max_length=MOST_NAMES)]


@router.post("/folder", response={201: list[PictureOut], 422: FailureOut})
def choose(request: HttpRequest, data: NamesIn) -> Status[list[PictureOut]]:
    """Take pictures from that folder; they stay where they are."""
    return Status(201, [PictureOut.of(row) for row in take_from_folder(user_of(request), data.names)])


@router.post("", response={201: PictureOut, 422: FailureOut})
def bring(request: HttpRequest, file: File[UploadedFile]) -> Status[PictureOut]:
    """Bring one picture off the card and read its header."""
    return Status(201, PictureOut.of(take_upload(user_of(request), file.name or "picture", file.chunks())))


@router.get("", response=list[PictureOut])
@paginate
def pictures(request: HttpRequest) -> list[PictureOut]:
    """The last hundred pictures, the latest first."""
    return [PictureOut.of(row) for row in pictures_of(user_of(request))[:100]]


JPEG = {"responses": {200: {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}}}


@router.get("/{int:record_id}/preview.jpg", response={200: None, 404: FailureOut}, openapi_extra=JPEG)
def preview(request: HttpRequest, record_id: int) -> HttpResponse:
    """A small stretched view of a measured picture."""
    row = get_object_or_404(Picture.objects.of(user_of(request)).exclude(preview=None), pk=record_id)
    return HttpResponse(bytes(row.preview or b""), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.post("/{int:record_id}/let-go", response={200: PictureOut, 404: FailureOut})
def forget_file(request: HttpRequest, record_id: int) -> PictureOut:
    """Delete the file of an upload; what was measured stays."""
    row = get_object_or_404(pictures_of(user_of(request)), pk=record_id)
    let_go(row)
    return PictureOut.of(row)


add_removal(router, "picture", Picture, pictures_of, PictureOut, PictureOut.of)
