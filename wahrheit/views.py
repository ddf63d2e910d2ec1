"""What belongs to no app: errors."""

from django.shortcuts import render


def csrf_failure(request, reason=""):
    """The form's key was missing or old: say what to do."""
    return render(request, "403_csrf.html", {"reason": reason}, status=403)
