"""Pictures and sounds as they are kept."""

from django.contrib.auth.decorators import login_not_required
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404
from django.views.decorators.cache import cache_control

from stations.units import picture_files, sounds
from stations.units.models import Clip, Photo


@login_not_required
@cache_control(max_age=31536000, immutable=True, private=True)
def photo(request, pk, size):
    """A picture; without sign-in only those of a unit on offer."""
    row = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    if not request.user.is_authenticated and row.unit.stage not in {"listed", "sold", "sent"}:
        raise Http404
    path = picture_files.path_of(row.sha256, small=size == "small")
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")


def clip(request, pk):
    """A sound as it was kept."""
    row = get_object_or_404(Clip, pk=pk)
    path = sounds.path_of(row.sha256, row.kind)
    if not path.exists():
        raise Http404
    answer = FileResponse(path.open("rb"), content_type=sounds.TYPES[row.kind])
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
