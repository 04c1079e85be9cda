import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import type { Condition } from "../../api/client";
import { useConditions } from "../../api/queries";
import { NotHere } from "../../shared/ui/NotHere";

/** The condition that the address names, or what to show while there is none. */
export function useOneCondition(): { condition?: Condition; instead?: ReactNode } {
  const { slug = "" } = useParams();
  const conditions = useConditions();
  const condition = conditions.data?.find((each) => each.slug === slug);
  if (conditions.error) return { instead: <NotHere title="Conditions">{conditions.error.message}</NotHere> };
  if (!conditions.data) return { instead: <p className="room soft">Opening the condition</p> };
  if (!condition)
    return {
      instead: (
        <NotHere title="Conditions">
          There is no condition '{slug}'; it was removed, or the address is mistyped.{" "}
          <Link to="/conditions">See all conditions</Link>
        </NotHere>
      ),
    };
  return { condition };
}
