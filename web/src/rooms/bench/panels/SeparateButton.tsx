import Button from "@mui/material/Button";
import { useAskRun } from "../../../api/queries";
import type { PanelProps } from "./PanelProps";

/** Ask for the file, and show it being made. */
export function SeparateButton(props: Pick<PanelProps, "artwork" | "condition" | "recipe" | "look">) {
  const { artwork, condition, recipe, look } = props;
  const ask = useAskRun();
  const body = { artwork_id: artwork.id, condition: condition.slug, recipe };
  return (
    <>
      {ask.error && (
        <p className="notice" role="alert">
          {ask.error.message}
        </p>
      )}
      <Button
        variant="contained"
        disabled={ask.isPending}
        onClick={() => ask.mutate(body, { onSuccess: () => look.go("deliver") })}
      >
        Separate and write
      </Button>
    </>
  );
}
