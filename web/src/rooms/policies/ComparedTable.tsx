import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import type { Beside, Compared, Output, Reading } from "../../api/policyQueries";
import { useHistory } from "../../api/recordQueries";
import { counted, fixed, moment } from "../../shared/figures";
import { ReadingLine } from "./ReadingLine";

const MOST_SHOWN = 400;
const NOTHING = "nothing";

interface ChoiceProps {
  outputs: Output[];
  output: Output;
  beside: Beside | undefined;
  onBeside: (beside: Beside | undefined) => void;
}

/** What is set beside the chosen output: another one, or an earlier version of itself. */
export function BesideChoice({ outputs, output, beside, onBeside }: ChoiceProps) {
  const earlier = (useHistory("output", String(output.id)).data ?? []).slice(1);
  const value = beside ? `${beside.id} ${beside.version}` : NOTHING;
  return (
    <Select
      size="small"
      className="beside"
      value={value}
      inputProps={{ "aria-label": "Compare with" }}
      renderValue={() => (beside ? `Compared with ${nameOf(outputs, beside)}` : "Compare with")}
      onChange={(event) => {
        const [id = 0, version = 0] = event.target.value.split(" ").map(Number);
        onBeside(event.target.value === NOTHING ? undefined : { id, version });
      }}
    >
      <MenuItem value={NOTHING}>Nothing</MenuItem>
      {outputs
        .filter((each) => each.id !== output.id)
        .map((each) => (
          <MenuItem key={each.id} value={`${each.id} 0`}>
            {each.name}
          </MenuItem>
        ))}
      {earlier
        .filter((each) => each.can_restore)
        .map((each) => (
          <MenuItem key={each.number} value={`${output.id} ${each.number}`}>
            Version {each.number}, {moment(each.at)}
          </MenuItem>
        ))}
    </Select>
  );
}

const nameOf = (outputs: Output[], beside: Beside) =>
  beside.version ? `version ${beside.version}` : (outputs.find((each) => each.id === beside.id)?.name ?? "");

interface Props extends ChoiceProps {
  beside: Beside;
  compared: Compared | undefined;
  reading: Reading | undefined;
  chosen: number | undefined;
  onChoose: (line: number, page: number) => void;
}

/** Every kind of color that two outputs treat differently, the furthest apart first; a line marks its objects. */
export function ComparedTable(props: Props) {
  const { outputs, output, beside, compared, reading, chosen, onBeside, onChoose } = props;
  const drift = compared?.drift.map((each) => (each === null ? undefined : fixed(each)));
  return (
    <section className="decisions" aria-label="Comparison" aria-busy={!compared}>
      <div className="decision-sums">
        {compared ? (
          <>
            <b>{compared.differing.length + compared.more} kinds of color differ</b>
            <span>{counted(compared.same, "object")} alike</span>
            {compared.refused.map((refused, at) =>
              refused ? (
                <span key={at === 0 ? "first" : "second"}>
                  {at === 0 ? output.name : nameOf(outputs, beside)} refuses it
                </span>
              ) : null,
            )}
            {drift?.some(Boolean) && (
              <span>same picture up to ΔE00 {drift.map((each) => each ?? "–").join(" / ")} apart</span>
            )}
          </>
        ) : reading ? (
          <ReadingLine reading={reading} />
        ) : (
          <span className="soft">Sending it through both</span>
        )}
        <BesideChoice outputs={outputs} output={output} beside={beside} onBeside={onBeside} />
      </div>
      <div className="decision-scroll">
        <table className="table">
          <thead>
            <tr>
              <th>Page</th>
              <th>Object</th>
              <th>Found</th>
              <th>{output.name}</th>
              <th>{nameOf(outputs, beside)}</th>
              <th className="number">ΔE00</th>
            </tr>
          </thead>
          <tbody>
            {compared?.differing.slice(0, MOST_SHOWN).map((each, at) => (
              <tr
                key={`${each.page} ${each.object} ${each.found} ${each.first} ${each.second}`}
                className={at === chosen ? "chosen" : ""}
              >
                <td>{each.page}</td>
                <td>
                  <button
                    type="button"
                    className="quiet-button"
                    aria-pressed={at === chosen}
                    onClick={() => onChoose(at, each.page)}
                  >
                    {each.object}
                    {each.times > 1 ? ` × ${each.times}` : ""}
                  </button>
                </td>
                <td>{each.found}</td>
                <td>{each.first}</td>
                <td>{each.second}</td>
                <td className="number">{each.delta_e === null ? "–" : fixed(each.delta_e, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {compared && compared.differing.length + compared.more > MOST_SHOWN && (
          <p className="soft">The {MOST_SHOWN} furthest apart are shown.</p>
        )}
      </div>
    </section>
  );
}
