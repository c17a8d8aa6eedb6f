"""Translate renamed columns of new rows to the names of the study."""

from __future__ import annotations

import io

import polars as pl

from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind
from zembra.core.intake.joining import series_texts
from zembra.core.intake.numbers import read_cells
from zembra.core.intake.rowdates import row_moments
from zembra.core.newrows.merging import JoinedTable

FEWEST_SHARED = 3  # moments
MOST_AGREE = 0.75  # the newest numbers are often revised
SAME = 1e-6  # of a number
WAS, NOW = "\n was", "\n now"  # no column's name has a line's end


def roles(how: HowRead) -> tuple[tuple[str | None, ...], ...]:
    """Return the columns of dates, series and numbers, in any order."""
    return (
        (how.dates.column, *how.dates.more),
        (how.series.column, *how.series.more),
        tuple(sorted(how.values.columns)),
    )


def other_names(came: BroughtIn, wanted: BroughtIn, *, said: bool = False) -> dict[str, str]:
    """Map renamed columns to their names in the study. Empty if none is renamed, or if the tables differ in
    structure.

    wanted: the data of the study
    said: whether a person confirmed that the columns are the same, so that ambiguous ones match by order. A number
    column matches by name, else by equal numbers.
    """
    mine, theirs = came.how, wanted.how
    if mine.values.kind is not ValueKind.COLUMNS or theirs.values.kind is not ValueKind.COLUMNS:
        return {}
    pairs: list[tuple[str, str]] = []
    for own, other in (
        ((mine.dates.column, *mine.dates.more), (theirs.dates.column, *theirs.dates.more)),
        ((mine.series.column, *mine.series.more), (theirs.series.column, *theirs.series.more)),
    ):
        if len(own) != len(other) or any((a is None) != (b is None) for a, b in zip(own, other, strict=True)):
            return {}
        pairs += [(a, b) for a, b in zip(own, other, strict=True) if a is not None and b is not None]
    pairs += _values_called(came, wanted, said=said)
    return {own: study_name for own, study_name in pairs if own != study_name}


def _values_called(came: BroughtIn, wanted: BroughtIn, *, said: bool) -> list[tuple[str, str]]:
    found = [pair for pair in came.how.series.renamed.items() if pair[0] in came.how.values.columns]
    known = {*dict(found), *dict(found).values()}
    new = [name for name in came.how.values.columns if name not in wanted.how.values.columns and name not in known]
    left = [name for name in wanted.how.values.columns if name not in came.how.values.columns and name not in known]
    if not new or not left:
        return found
    was, now = _by_row(wanted, left, WAS), _by_row(came, new, NOW)
    both = was.join(now, on=["series", "when"], how="inner")
    for name in list(new):
        same = next((other for other in left if _same(both[f"{other}{WAS}"], both[f"{name}{NOW}"])), None)
        if same is not None:
            found.append((name, same))
            new.remove(name)
            left.remove(same)
    if said and len(new) == len(left):
        found += zip(new, left, strict=True)
    return found


def _same(was: pl.Series, now: pl.Series) -> bool:
    same = ((now - was).abs() <= SAME * was.abs()).drop_nulls()
    return same.len() >= FEWEST_SHARED and float(same.mean() or 0.0) >= MOST_AGREE  # type: ignore[arg-type]


def _by_row(brought: BroughtIn, names: list[str], ending: str) -> pl.DataFrame:
    """Return the numbers by series and moment, without duplicates."""
    table, how = brought.table, brought.how
    series = series_texts(table, how.series)
    key = series if series is not None else pl.repeat("", table.height, dtype=pl.String, eager=True)
    columns = [read_cells(table.cells[name], how.values.writing(name)).value.alias(f"{name}{ending}") for name in names]
    rows = pl.DataFrame([key.alias("series"), row_moments(table, how.dates).when.alias("when"), *columns])
    return rows.drop_nulls("when").unique(["series", "when"], keep="none")


def in_terms_of(came: BroughtIn, names: dict[str, str]) -> JoinedTable | None:
    """Return the new rows with the column names of the study, as Parquet with every cell as text; None if nothing
    changes.

    names: as `other_names` returns them
    """
    if not names and not (came.how.series.called and came.how.series.column):
        return None
    cells = came.table.cells
    if came.how.series.column and came.how.series.called:
        # a series is called as in the study in the cells themselves
        column = came.how.series.column
        cells = cells.with_columns(cells[column].str.strip_chars().replace(came.how.series.renamed).alias(column))
    # an unrelated column may hold a name that is needed
    taken = {name: f"{name} (as it came)" for name in cells.columns if name in names.values() and name not in names}
    renamed = cells.rename({**taken, **{name: other for name, other in names.items() if name in cells.columns}})
    out = io.BytesIO()
    renamed.write_parquet(out, compression="lz4", statistics=False)
    return JoinedTable(out.getvalue(), _renamed_how(came.how, names))


def _renamed_how(how: HowRead, names: dict[str, str]) -> HowRead:
    def of(name: str | None) -> str | None:
        return None if name is None else names.get(name, name)

    def each(more: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(names.get(name, name) for name in more)

    return how.model_copy(
        update={
            "table": TableHow(form=FileForm.PARQUET),
            "dates": how.dates.model_copy(update={"column": of(how.dates.column), "more": each(how.dates.more)}),
            "series": how.series.model_copy(
                update={"column": of(how.series.column), "more": each(how.series.more), "called": ()}
            ),
            "values": how.values.model_copy(
                update={"columns": each(how.values.columns), "other_mark": each(how.values.other_mark)}
            ),
            "keep": tuple(keep.model_copy(update={"column": names.get(keep.column, keep.column)}) for keep in how.keep),
        }
    )
