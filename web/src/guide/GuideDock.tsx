import "./GuideDock.css";
import Button from "@mui/material/Button";
import { useEffect } from "react";
import { useLocation, useNavigate } from "react-router";
import { usePreference } from "../shared/preferences";
import { GUIDES, type Guide } from "./guides";
import { useSituation } from "./useSituation";

/** The guide one is in, and the steps that were done since it was begun. */
interface GuideProgress {
  key: string;
  begunAt: number;
  done: number[];
}

const POINTED_MS = 4000;

/** A guide at the edge: each step says what and why, points at its control, and ticks itself off when it is true. */
export function GuideDock({ onClose }: { onClose: () => void }) {
  const [kept, setKept] = usePreference<GuideProgress | null>("guide", null);
  const guide = GUIDES.find((each) => each.key === kept?.key);
  return (
    <aside className="guide" aria-label="Guides">
      <header>
        <h2>{guide?.title ?? "Guides"}</h2>
        <button type="button" className="quiet-button" onClick={onClose}>
          Close
        </button>
      </header>
      {guide && kept ? (
        <Steps guide={guide} kept={kept} onKeep={setKept} />
      ) : (
        <>
          <p>For what one does once a year. Steps tick themselves off as the work is really done.</p>
          <ul>
            {GUIDES.map((each) => (
              <li key={each.key}>
                <button
                  type="button"
                  className="choice"
                  onClick={() => setKept({ key: each.key, begunAt: Date.now(), done: [] })}
                >
                  <b>{each.title}</b>
                  <span className="soft">about {each.minutes} minutes</span>
                </button>
              </li>
            ))}
          </ul>
          <p>
            <a href="/guide" target="_blank" rel="noreferrer">
              All of it to read
            </a>
          </p>
        </>
      )}
    </aside>
  );
}

function Steps({
  guide,
  kept,
  onKeep,
}: {
  guide: Guide;
  kept: GuideProgress;
  onKeep: (kept: GuideProgress | null) => void;
}) {
  const now = useSituation(kept.begunAt);
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const at = guide.steps.findIndex((_, index) => !kept.done.includes(index));
  const current = guide.steps[at];
  const true_ = current?.done(now) ?? false;
  useEffect(() => {
    if (true_) onKeep({ ...kept, done: [...kept.done, at] });
  }, [true_, at, kept, onKeep]);

  return (
    <>
      <p role="status" className="soft">
        {current
          ? `Step ${at + 1} of ${guide.steps.length}`
          : "All of it is done. What you made is at Runs and on the shelf."}
      </p>
      <ol>
        {guide.steps.map((step, index) => {
          const done = kept.done.includes(index);
          return (
            <li key={step.what} data-done={done} aria-current={index === at ? "step" : undefined}>
              <span aria-hidden="true" className="tick">
                {done ? "✓" : index + 1}
              </span>
              <div>
                <b>{step.what}</b> {done && <span className="visually-hidden">Done.</span>}
                {index === at && (
                  <>
                    <p>{step.why}</p>
                    <p className="ways">
                      {step.room && !pathname.startsWith(step.room) && (
                        <Button onClick={() => navigate(step.room ?? "/")}>Go there</Button>
                      )}
                      {step.at && (!step.room || pathname.startsWith(step.room)) && (
                        <Button onClick={() => pointAt(step.at ?? "")}>Show me where</Button>
                      )}
                      <button
                        type="button"
                        className="quiet-button"
                        onClick={() => onKeep({ ...kept, done: [...kept.done, index] })}
                      >
                        Pass over
                      </button>
                    </p>
                  </>
                )}
              </div>
            </li>
          );
        })}
      </ol>
      <p className="ways">
        <a href={`/guide/${guide.key}`} target="_blank" rel="noreferrer">
          Read it whole
        </a>
        <button type="button" className="quiet-button" onClick={() => onKeep(null)}>
          Another guide
        </button>
      </p>
    </>
  );
}

/** Brings a control into view and rings it for a while. */
function pointAt(selector: string) {
  const found = document.querySelector<HTMLElement>(selector);
  const place = found?.closest<HTMLElement>(".setting") ?? found;
  if (!place) return;
  place.scrollIntoView({ block: "nearest" });
  place.classList.add("pointed-at");
  setTimeout(() => place.classList.remove("pointed-at"), POINTED_MS);
}
