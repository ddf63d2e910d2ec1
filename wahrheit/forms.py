"""How forms render: label, control, help and errors of a field are one block, everywhere the same."""

from django.forms.renderers import TemplatesSetting


class Renderer(TemplatesSetting):
    """Django's, with this project's field."""

    field_template_name = "wahrheit/field.html"
