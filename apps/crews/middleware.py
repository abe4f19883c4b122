"""Puts the person's units and crew on the request."""


class PersonMiddleware:
    """Set ``request.units`` and ``request.crew``."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        request.units = getattr(request.user, "units", "metric")
        request.crew = getattr(request.user, "crew", None)
        return self.get_response(request)
