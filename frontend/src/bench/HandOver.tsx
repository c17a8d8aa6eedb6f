import { Button, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { TroubleNote } from "../ui/Trouble";
import { handOver, save } from "../ui/files";
import type { Bench } from "../api/client";

interface Props {
  open: boolean;
  onClose: () => void;
  bench: Bench;
}

const PICTURE: [string, string][] = [
  ["picture.png", "at twice the size of the sheet, for slides and mail"],
  ["picture.svg", "scales without loss, its fonts inside"],
  ["picture.pdf", "a page of its size, as vectors"],
  ["slides.pptx", "a slide with a chart that can be edited there, and one a series where there are several"],
  ["picture.pptx", "a slide filled by the picture, as an image"],
  ["picture.html", "a page that opens without Zembra: values under the pointer, the numbers, the account"],
];
const NUMBERS: [string, string][] = [
  ["points.csv", "every period of every series: as received, now, its condition and why"],
  ["lines.csv", "readings and projections, with their limits"],
  ["numbers.xlsx", "all of it as a workbook: points, lines, evidence, follow-up, note"],
  ["follow-up.csv", "the periods to ask about, with notes and states"],
  ["follow-up.xlsx", "the same as a workbook"],
];
const ACCOUNT: [string, string][] = [
  ["method-note.txt", "the sentences, what each touched, and the warnings"],
  ["account.pdf", "a page or two to read without Zembra, with the picture"],
  ["everything.zip", "an open data package that another Zembra takes back whole"],
  ["report.json", "the same for a program, with all evidence"],
  ["ledger.json", "the decisions, to run again on other rows"],
];

/** Picture, numbers, and the account of what was done. */
export function HandOver({ open, onClose, bench }: Props) {
  const [trouble, setTrouble] = useState<unknown>();
  const navigate = useNavigate();
  const row = ([name, about]: [string, string]) => (
    <li key={name}>
      <Button
        onClick={() => {
          setTrouble(undefined);
          handOver(bench.study.id, name).then(save).catch(setTrouble);
        }}
      >
        {name}
      </Button>
      <span>{about}</span>
    </li>
  );
  return (
    <Modal open={open} onCancel={onClose} footer={null} title="Hand over" width={640}>
      <TroubleNote error={trouble} />
      <div className="handover">
        <h4>
          The picture{" "}
          <button
            type="button"
            className="link"
            onClick={() => void navigate(`/studies/${bench.study.id}/picture`)}
          >
            dress it first
          </button>
        </h4>
        <ul>{PICTURE.map(row)}</ul>
        <h4>The numbers</h4>
        <ul>{NUMBERS.map(row)}</ul>
        <h4>The account</h4>
        <ul>{ACCOUNT.map(row)}</ul>
      </div>
    </Modal>
  );
}
