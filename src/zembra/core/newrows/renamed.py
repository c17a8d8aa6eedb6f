"""Rows whose columns have other names than those of the study, put into its terms."""

from __future__ import annotations

import io

from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind
from zembra.core.newrows.together import Together


def other_names(came: HowRead, wanted: HowRead) -> dict[str, str]:
    """What columns are called in the study, by their names in what came; column by column of the same part. Empty where none
    is called otherwise, or where the two are not made of the same parts."""
    if came.values.kind is not ValueKind.COLUMNS or wanted.values.kind is not ValueKind.COLUMNS:
        return {}
    pairs = []
    for mine, theirs in (
        ((came.dates.column, *came.dates.more), (wanted.dates.column, *wanted.dates.more)),
        ((came.series.column, *came.series.more), (wanted.series.column, *wanted.series.more)),
        (came.values.columns, wanted.values.columns),
    ):
        if len(mine) != len(theirs) or any(
            (own is None) != (study_name is None) for own, study_name in zip(mine, theirs, strict=True)
        ):
            return {}
        pairs += [
            (own, study_name)
            for own, study_name in zip(mine, theirs, strict=True)
            if own is not None and study_name is not None
        ]
    return {own: study_name for own, study_name in pairs if own != study_name}


def in_terms_of(came: BroughtIn, wanted: HowRead) -> Together | None:
    """What came with the columns named as in the study, as Parquet with every cell as text; None where they are."""
    names = other_names(came.how, wanted)
    if not names:
        return None
    cells = came.table.cells
    # a column of no concern may bear a name that another one takes
    taken = {name: f"{name} (as it came)" for name in cells.columns if name in names.values() and name not in names}
    renamed = cells.rename({**taken, **{name: other for name, other in names.items() if name in cells.columns}})
    out = io.BytesIO()
    renamed.write_parquet(out, compression="lz4", statistics=False)
    return Together(out.getvalue(), _renamed_how(came.how, names))


def _renamed_how(how: HowRead, names: dict[str, str]) -> HowRead:
    def of(name: str | None) -> str | None:
        return None if name is None else names.get(name, name)

    def each(more: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(names.get(name, name) for name in more)

    return how.model_copy(
        update={
            "table": TableHow(form=FileForm.PARQUET),
            "dates": how.dates.model_copy(update={"column": of(how.dates.column), "more": each(how.dates.more)}),
            "series": how.series.model_copy(update={"column": of(how.series.column), "more": each(how.series.more)}),
            "values": how.values.model_copy(update={"columns": each(how.values.columns)}),
            "keep": tuple(keep.model_copy(update={"column": names.get(keep.column, keep.column)}) for keep in how.keep),
        }
    )
