"""Which kept pictures the real paint is still to be taken out of; asked at each opening, so that it needs nothing dear."""

from culmo.study.file import Study

TRIED = "cut"  # in what is kept of a picture: that nothing could be had of it


def older_pictures(study: Study) -> list[int]:
    """The ids of the pictures of sheets that lie in place and of which no patch was kept."""
    rows = study.select(
        "SELECT id FROM photos p WHERE sheet_id NOT NULL AND json_valid(placement) "
        "AND json_extract(placement, '$.homography') NOT NULL "
        f"AND json_extract(placement, '$.{TRIED}') IS NULL "
        "AND EXISTS (SELECT 1 FROM readings r WHERE r.photo_id = p.id AND r.cell_id NOT NULL) "
        "AND NOT EXISTS (SELECT 1 FROM readings r JOIN patches x ON x.reading_id = r.id WHERE r.photo_id = p.id) "
        "ORDER BY id DESC"
    )
    return [int(row["id"]) for row in rows]
