import "./conditions.css";
import "./ConditionHead.css";
import { NavLink } from "react-router";
import type { Condition } from "../../api/client";

/** A condition's name and its four pages. */
export function ConditionHead({ condition, children }: { condition: Condition; children?: React.ReactNode }) {
  const base = `/conditions/${condition.slug}`;
  return (
    <>
      <header>
        <div>
          <h1 tabIndex={-1}>{condition.name}</h1>
          <p className="soft">
            {condition.process}. {condition.notes}
          </p>
        </div>
        <div className="answers">{children}</div>
      </header>
      <nav className="pages" aria-label="Pages of this condition">
        <NavLink to={base} end>
          Judge
        </NavLink>
        <NavLink to={`${base}/build`}>Build</NavLink>
        <NavLink to={`${base}/profile`}>Profile</NavLink>
        <NavLink to={`${base}/drift`}>
          Drift
          {condition.last_strip && !condition.last_strip.within && <span className="status">out</span>}
        </NavLink>
      </nav>
    </>
  );
}
