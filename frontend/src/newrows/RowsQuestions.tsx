import "../ui/ask.css";
import { Checkbox } from "antd";
import type { Schemas } from "../api/client";

interface Props {
  questions: Schemas["OpenQuestion"][];
  waved: boolean;
  onWave: (waved: boolean) => void;
  onAnswer: (answer: Schemas["RowsAnswer"]) => void;
}

/** What is asked about new rows before they are taken in: one click for each answer, or all waved through. */
export function RowsQuestions({ questions, waved, onWave, onAnswer }: Props) {
  if (!questions.length) return null;
  return (
    <section className="newer-questions" aria-label="Zembra asks">
      <h2>Zembra asks</h2>
      {questions.map((question) => (
        <article key={question.key} className="ask" data-question={question.key}>
          <p>
            <b>{question.title}</b> {question.text}
          </p>
          <div className="ask-answers">
            {question.answers.map((answer) => (
              <button key={answer.label} type="button" onClick={() => onAnswer(answer)}>
                {answer.label}
              </button>
            ))}
          </div>
        </article>
      ))}
      <Checkbox checked={waved} onChange={(event) => onWave(event.target.checked)}>
        Wave them through; they stand in the method note
      </Checkbox>
    </section>
  );
}
