"""Numbers in addresses, no longer than any row's number will ever be."""

from django.urls.converters import IntConverter


class RowConverter(IntConverter):
    """A whole number of up to twelve digits; anything longer is no address of ours."""

    regex = "[0-9]{1,12}"
