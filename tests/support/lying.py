"""Where a sheet's block of cells may lie on its paper."""


def check_off_by_names(sheet, width_of, gutter_mm, note_mm):
    """Names at one end alone, left and above, make way for cells that can be painted: the block is off by no more than them.

    Parameters
    ----------
    sheet : Sheet of which the names stand at one end
    width_of : function of a text and its size in mm that gives its width in mm
    gutter_mm, note_mm : float, of the page
    """
    x, y, width, height = sheet.frame_mm
    off_x = 2 * x + width - sheet.paper.width_mm - gutter_mm
    off_y = 2 * y + height - sheet.paper.height_mm
    longest = max((width_of(label.text, label.size_mm) for label in sheet.labels), default=0.0)
    assert -0.1 < off_x <= longest + 8.0
    assert -note_mm - 0.1 < off_y <= longest + 16.0
