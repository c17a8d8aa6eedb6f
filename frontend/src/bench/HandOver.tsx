import { Button, Modal } from "antd";
import { useState } from "react";
import { troubleOf, type Bench } from "../api/client";
import { figurePng, figureSvg } from "../figure/draw";
import { TroubleNote } from "../ui/Trouble";

interface Props {
  open: boolean;
  onClose: () => void;
  bench: Bench;
  shown: [number, number];
}

const NUMBERS: [string, string][] = [
  ["points.csv", "every period of every series: as received, now, its condition and why"],
  ["lines.csv", "readings and projections, with their limits"],
  ["follow-up.csv", "the periods to ask about, with notes and states"],
  ["follow-up.xlsx", "the same as a workbook"],
];
const ACCOUNT: [string, string][] = [
  ["method-note.txt", "the sentences, what each touched, and the warnings"],
  ["report.json", "the same for a program, with all evidence"],
  ["ledger.json", "the decisions, to run again on other rows"],
];

/** Picture, numbers, and the account of what was done. */
export function HandOver({ open, onClose, bench, shown }: Props) {
  const [trouble, setTrouble] = useState<unknown>();
  const stem =
    bench.study.name
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-|-$/g, "") || "study";
  const attempt = (work: () => Promise<void>) => () => {
    setTrouble(undefined);
    work().catch(setTrouble);
  };
  const figure = { ...bench.figure, title: bench.study.name };
  const file = (name: string) =>
    attempt(async () => {
      const answer = await fetch(`/api/studies/${bench.study.id}/handover/${name}`);
      if (!answer.ok) throw troubleOf(await answer.json(), answer.status);
      save(await answer.blob(), `${stem}-${name}`);
    });
  const row = (name: string, about: string, take: () => void) => (
    <li key={name}>
      <Button onClick={take}>{name}</Button>
      <span>{about}</span>
    </li>
  );
  return (
    <Modal open={open} onCancel={onClose} footer={null} title="Hand over" width={620}>
      <TroubleNote error={trouble} />
      <div className="handover">
        <h4>The picture, as seen</h4>
        <ul>
          {row(
            "picture.png",
            "2400 × 1280 pixels, for slides and mail",
            attempt(async () => save(await figurePng(figure, ...shown), `${stem}.png`)),
          )}
          {row(
            "picture.svg",
            "scales without loss, its fonts inside",
            attempt(async () =>
              save(new Blob([await figureSvg(figure, ...shown)], { type: "image/svg+xml" }), `${stem}.svg`),
            ),
          )}
        </ul>
        <h4>The numbers</h4>
        <ul>{NUMBERS.map(([name, about]) => row(name, about, file(name)))}</ul>
        <h4>The account</h4>
        <ul>{ACCOUNT.map(([name, about]) => row(name, about, file(name)))}</ul>
      </div>
    </Modal>
  );
}

function save(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
