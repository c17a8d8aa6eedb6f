import "../ui/ask.css";
import type { Schemas } from "../api/client";

type Question = Schemas["QuestionView"];

/** What is asked at a time; the rest waits until these are answered. */
const AT_A_TIME = 3;

interface Props {
  questions: Question[];
  busy: boolean;
  lit: string | undefined;
  onLight: (key: string | undefined) => void;
  onAnswer: (key: string, answer: number | null) => void;
  onAgain: (key: string) => void;
}

/** Where the file can be read in two ways: one click for each answer, and a way to wave it through. */
export function Questions({ questions, busy, lit, onLight, onAnswer, onAgain }: Props) {
  const open = questions.filter((question) => !question.closed && !question.plain);
  const closed = questions.filter((question) => question.closed);
  if (!open.length && !closed.length) return null;
  return (
    <section className="asks" aria-label="Zembra asks">
      <h2>
        Zembra asks{" "}
        <small className="muted">
          {closed.length} of {open.length + closed.length} answered
        </small>
      </h2>
      {open.slice(0, AT_A_TIME).map((asked) => (
        <article
          key={asked.key}
          className={lit === asked.key ? "ask lit" : "ask"}
          data-question={asked.key}
          onMouseEnter={() => onLight(asked.key)}
          onFocus={() => onLight(asked.key)}
        >
          <p>
            <b>{asked.title}</b> {asked.text}
          </p>
          <div className="ask-answers">
            {asked.answers.map((answer, n) => (
              <button key={answer} type="button" disabled={busy} onClick={() => onAnswer(asked.key, n)}>
                {answer}
              </button>
            ))}
            <button
              type="button"
              className="wave"
              disabled={busy}
              title="Begin without an answer; the method note will say so"
              onClick={() => onAnswer(asked.key, null)}
            >
              wave through
            </button>
          </div>
        </article>
      ))}
      {open.length > AT_A_TIME && (
        <p className="muted">{open.length - AT_A_TIME} more when these are answered.</p>
      )}
      {closed.map((question) => (
        <p key={question.key} className="ask-closed">
          <span>{question.title}</span> <b>{question.answer ?? "waved through"}</b>{" "}
          <button type="button" className="link" disabled={busy} onClick={() => onAgain(question.key)}>
            ask again
          </button>
        </p>
      ))}
    </section>
  );
}

/** What is so plain that it is only told, with one click for each other answer. */
export function PlainlyTold({ questions, busy, onAnswer }: Pick<Props, "questions" | "busy" | "onAnswer">) {
  return questions
    .filter((question) => question.plain && !question.closed)
    .map((question) => (
      <p key={question.key} className="notice" data-told={question.key}>
        {question.title} {question.text}{" "}
        {question.answers.slice(1).map((answer, n) => (
          <button
            key={answer}
            type="button"
            className="link"
            disabled={busy}
            onClick={() => onAnswer(question.key, n + 1)}
          >
            {answer}
          </button>
        ))}
      </p>
    ));
}

/** How many questions keep a study from beginning, in words; empty where none does. */
export function stillOpen(questions: Question[]): string {
  const open = questions.filter((question) => !question.closed && !question.plain).length;
  if (open) return open === 1 ? "one question is open" : `${open} questions are open`;
  const waved = questions.filter((question) => question.closed && question.answer === null).length;
  if (!waved) return "";
  return waved === 1 ? "one question waved through" : `${waved} questions waved through`;
}
