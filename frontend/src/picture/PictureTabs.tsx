import { Input, Segmented } from "antd";
import { useState } from "react";
import type { Change } from "../bench/edits";
import { freeName, onPicture, onPictures, type Picture } from "./edits";

const MOST_MADE = 60;

interface Props {
  names: string[];
  place: number;
  picture: Picture;
  /** The series of the study. */
  series: string[];
  onPlace: (place: number) => void;
  onCommit: (change: Change, what: string) => void;
}

/** The pictures of a study: chosen, named, copied, taken off; one for each series in one go. */
export function PictureTabs({ names, place, picture, series, onPlace, onCommit }: Props) {
  const [name, setName] = useState<string>();
  const copy = () => {
    onCommit(
      onPictures(picture, (all) => [...all, { ...picture, name: freeName(`${picture.name}, again`, all) }]),
      "Picture copied",
    );
    onPlace(names.length);
  };
  const oneEach = () =>
    onCommit(
      onPictures(picture, (all) => {
        const made = [...all];
        for (const seriesName of series.slice(0, MOST_MADE))
          made.push({
            ...picture,
            name: freeName(seriesName.slice(0, 100) || "series", made),
            what: { shown: [seriesName] },
            headings: { ...picture.headings, title: seriesName },
            lines: [],
            free: [],
            alt: null,
          });
        return made;
      }),
      "One picture for each series",
    );
  return (
    <div className="picture-tabs">
      {names.length > 1 && (
        <Segmented
          aria-label="Picture of the study"
          size="small"
          value={place}
          options={names.map((name, n) => ({ value: n, label: name }))}
          onChange={(n) => onPlace(Number(n))}
        />
      )}
      <div className="picture-deeds">
        <Input
          size="small"
          aria-label="Name of the picture"
          maxLength={120}
          value={name ?? picture.name}
          onChange={(event) => setName(event.target.value)}
          onBlur={() => {
            const wanted = name?.trim();
            if (wanted && wanted !== picture.name)
              onCommit(
                onPicture(place, picture, (dressed) => ({ ...dressed, name: wanted })),
                "Picture renamed",
              );
            setName(undefined);
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
        <button type="button" className="link" onClick={copy}>
          copy
        </button>
        {series.length > 1 && (
          <button type="button" className="link" onClick={oneEach}>
            one for each series
          </button>
        )}
        {names.length > 1 && (
          <button
            type="button"
            className="link"
            onClick={() => {
              onCommit(
                onPictures(picture, (all) => all.toSpliced(place, 1)),
                "Picture taken off",
              );
              onPlace(Math.max(0, place - 1));
            }}
          >
            take off
          </button>
        )}
      </div>
    </div>
  );
}
