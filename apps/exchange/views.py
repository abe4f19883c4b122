"""Export of the plan document."""

import json

from django.http import HttpResponse
from django.utils.text import slugify

from apps.briefing.planner import document
from apps.crews.permissions import permission
from apps.jobs import planner as jobs


@permission("plan.view")
def export(request, job_id, tree_id):
    """The plan document of one tree, as ``python -m treecore evaluate`` reads it."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    text = json.dumps(document(tree), indent=1, ensure_ascii=False)
    name = f"{slugify(tree.job.name)}-{slugify(tree.name)}.json"
    return HttpResponse(
        text, content_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
