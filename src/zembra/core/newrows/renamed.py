"""Rows whose columns have other names than those of the study, put into its terms."""

from __future__ import annotations

import io

import polars as pl

from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind
from zembra.core.intake.numbers import read_cells
from zembra.core.intake.rowdates import row_moments
from zembra.core.newrows.together import Together

FEWEST_SHARED = 3  # moments
MOST_AGREE = 0.75  # the newest numbers are often revised
SAME = 1e-6  # of a number
NOW = "\n now"  # no column's name has a line's end


def roles(how: HowRead) -> tuple[tuple[str | None, ...], ...]:
    """The columns that tell dates, series and numbers, whatever their order."""
    return (
        (how.dates.column, *how.dates.more),
        (how.series.column, *how.series.more),
        tuple(sorted(how.values.columns)),
    )


def other_names(came: BroughtIn, wanted: BroughtIn) -> dict[str, str]:
    """What columns are called in the study, by their names in what came. Empty where none is called otherwise, or where the
    two are not made of the same parts. wanted: what the study stands on.

    A column of numbers is that of the study with its name, else the one with the same numbers; where no number is there on
    both sides, the only one that is left.
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
    pairs += _values_called(came, wanted)
    return {own: study_name for own, study_name in pairs if own != study_name}


def _values_called(came: BroughtIn, wanted: BroughtIn) -> list[tuple[str, str]]:
    said = [pair for pair in came.how.series.renamed.items() if pair[0] in came.how.values.columns]
    new = [name for name in came.how.values.columns if name not in wanted.how.values.columns and name not in dict(said)]
    left = [
        name for name in wanted.how.values.columns
        if name not in came.how.values.columns and name not in dict(said).values()
    ]  # fmt: skip
    if not new or not left:
        return said
    was, now = (_by_moment(brought, names) for brought, names in ((wanted, left), (came, new)))
    both = was.join(now, on="when", how="inner", suffix=NOW)
    found = list(said)
    for name in new:
        own = both[name if name in both.columns and name not in left else name + NOW]
        for other in left:
            same = ((own - both[other]).abs() <= SAME * both[other].abs()).drop_nulls()
            if same.len() >= FEWEST_SHARED and float(same.mean() or 0.0) >= MOST_AGREE:  # type: ignore[arg-type]
                found.append((name, other))
                left.remove(other)
                break
    rest = [name for name in new if name not in dict(found)]
    if len(rest) == len(left) == 1 and both.height < FEWEST_SHARED:
        found.append((rest[0], left[0]))
    return found


def _by_moment(brought: BroughtIn, names: list[str]) -> pl.DataFrame:
    """The numbers of columns by the moment of their rows; rows that share one are left out."""
    when = row_moments(brought.table, brought.how.dates).when.rename("when")
    columns = [
        read_cells(brought.table.cells[name], brought.how.values.writing(name)).value.alias(name) for name in names
    ]
    return pl.DataFrame([when, *columns]).drop_nulls("when").unique("when", keep="none")


def in_terms_of(came: BroughtIn, names: dict[str, str]) -> Together | None:
    """What came with the columns named as in the study, as Parquet with every cell as text; None where they are. names: see
    `other_names`."""
    if not names and not (came.how.series.called and came.how.series.column):
        return None
    cells = came.table.cells
    if came.how.series.column and came.how.series.called:
        # a series is called as in the study in the cells themselves
        column = came.how.series.column
        cells = cells.with_columns(cells[column].str.strip_chars().replace(came.how.series.renamed).alias(column))
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
            "series": how.series.model_copy(
                update={"column": of(how.series.column), "more": each(how.series.more), "called": ()}
            ),
            "values": how.values.model_copy(
                update={"columns": each(how.values.columns), "other_mark": each(how.values.other_mark)}
            ),
            "keep": tuple(keep.model_copy(update={"column": names.get(keep.column, keep.column)}) for keep in how.keep),
        }
    )
