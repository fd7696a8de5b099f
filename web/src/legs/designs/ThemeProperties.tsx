import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { Choice } from "../../kit/Choice";
import type { Act } from "./DesignBench";
import type { Design } from "./designState";
import { BuildLike } from "./BuildLike";
import { PictureColours } from "./PictureColours";
import { Row, SizeRow, TextInput } from "./Row";
import { SavedThemes } from "./SavedThemes";
import { SetChoice } from "./SetChoice";
import { TakeAlong } from "./TakeAlong";

type Theme = Design["theme"];
const colourRoles = [
  ["name", "Name"],
  ["text", "Text"],
  ["soft", "Second text"],
  ["line", "Lines"],
] as const;
const sizeRoles = [
  ["name", "Name"],
  ["text", "Text"],
  ["small", "Small print"],
] as const;

/** The name and the look of a design. */
export function ThemeProperties({ id, design, act }: { id: string; design: Design; act: Act }) {
  const stacks = useQuery({
    queryKey: ["font-stacks"],
    queryFn: () => take(api.GET("/api/font-stacks")),
    staleTime: Infinity,
  });
  const { theme } = design;
  const set = (label: string, change: Partial<Theme>, mergeKey: string) =>
    act(label, { kind: "theme", theme: { ...theme, ...change } }, mergeKey);
  return (
    <div className="flex flex-col gap-2">
      <h2 className="font-semibold text-soft">Theme and name</h2>
      <Row label="Name">
        <TextInput
          label="Name of the design"
          value={design.name}
          isValid={(text) => text.trim().length > 0 && text.length <= 100}
          hint="A design needs a name of 1 to 100 characters."
          onChange={(name) => act("rename the design", { kind: "rename", name }, "name")}
        />
      </Row>
      <SetChoice design={design} act={act} />
      <BuildLike id={id} act={act} />
      <SavedThemes theme={theme} onTake={(kept) => act("take a kept theme", { kind: "theme", theme: kept })} />
      <h3 className="mt-3 border-t border-line pt-3 text-soft">Colours</h3>
      <PictureColours
        onTake={(colours) => set("colours of a picture", { colours }, "")}
        onPick={(colour) => set("colour of names", { colours: { ...theme.colours, name: colour } }, "")}
      />
      {colourRoles.map(([role, label]) => (
        <Row key={role} label={label}>
          <Colour
            label={`${label} colour`}
            value={theme.colours[role]}
            onChange={(colour) =>
              set(`${label.toLowerCase()} colour`, { colours: { ...theme.colours, [role]: colour } }, `colour ${role}`)
            }
          />
        </Row>
      ))}
      <h3 className="mt-3 border-t border-line pt-3 text-soft">Letters</h3>
      <Row label="Font">
        <Choice
          label="Font"
          value={theme.fontStack}
          options={(stacks.data ?? [theme.fontStack]).map((stack) => ({
            value: stack,
            label: stack.replaceAll("'", ""),
          }))}
          onChange={(fontStack) => set("font", { fontStack }, "")}
        />
      </Row>
      {sizeRoles.map(([role, label]) => (
        <SizeRow
          key={role}
          row={label}
          label={`${label} size`}
          unit="px"
          least={9}
          most={40}
          value={theme.sizes[role]}
          onChange={(size) =>
            set(`${label.toLowerCase()} size`, { sizes: { ...theme.sizes, [role]: size } }, `size ${role}`)
          }
        />
      ))}
      <SizeRow
        row="Line height"
        label="Line height"
        unit="%"
        least={100}
        most={200}
        value={theme.lineHeight}
        onChange={(lineHeight) => set("line height", { lineHeight }, "line height")}
      />
      <SizeRow
        row="Room"
        label="Room of gaps, columns and dividers"
        unit="%"
        least={50}
        most={200}
        value={theme.spacing ?? 100}
        onChange={(spacing) => set("room", { spacing }, "room")}
      />
      <Row label="Disclaimers">
        <Choice
          label="Disclaimers are set apart"
          value={theme.notice ?? "line"}
          options={[
            { value: "line", label: "by a line" },
            { value: "room", label: "by room" },
            { value: "plain", label: "by size alone" },
          ]}
          onChange={(notice) => set("disclaimers of a theme", { notice }, "")}
        />
      </Row>
      <TakeAlong id={id} />
    </div>
  );
}

/** A colour by its value or from the browser's own picker. What is not a colour yet is kept as typed and not saved. */
function Colour({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <div className="flex gap-2">
      <input
        type="color"
        aria-label={`${label}, picked`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="h-8 w-9 shrink-0 rounded-[4px] border border-field bg-sheet p-1"
      />
      <TextInput
        label={label}
        value={value}
        isValid={(text) => /^#[0-9a-f]{6}$/i.test(text)}
        hint="Six digits, like #1d2a33."
        onChange={onChange}
      />
    </div>
  );
}
