import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { FileProgress } from "./FileDrop";
import { fieldOf, isUsable, setField, setKey, setTransforms, transformsOf, type TableField } from "./mappingState";
import { TransformList } from "./TransformList";
import { lookAtTable, pendingTable, useUpload } from "./useUpload";

/** What a table's columns are, seen at once on its first people. */
export function TableMapping() {
  const navigate = useNavigate();
  const file = pendingTable();
  const table = useQuery({
    queryKey: ["table", file?.name, file?.size, file?.lastModified],
    queryFn: () => lookAtTable(file as File),
    enabled: file !== null,
    gcTime: 0,
  });
  if (!file)
    return (
      <Page title="A table" lede="The table is gone with the page that was loaded.">
        <Empty step={<Button onClick={() => void navigate("/people")}>Back to everybody</Button>}>
          Drop it on the list of people again; what was mapped before is kept.
        </Empty>
      </Page>
    );
  if (!table.data)
    return (
      <div className="p-6">
        <Trouble error={table.error} />
      </div>
    );
  return <Columns key={table.dataUpdatedAt} file={file} table={table.data} />;
}

function Columns({ file, table }: { file: File; table: Api["TableAnswer"] }) {
  const navigate = useNavigate();
  const upload = useUpload();
  const [mapping, setMapping] = useState(table.mapping);
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const preview = useQuery({
    queryKey: ["table", "try", mapping],
    queryFn: () => take(api.POST("/api/tables/try", { body: { sample: table.sample, mapping } })),
    enabled: isUsable(mapping),
    placeholderData: (before) => before,
  });
  const keep = useMutation({
    mutationFn: () => take(api.PUT("/api/tables/mapping", { body: { form: table.sample.form, mapping } })),
    onSuccess: () => upload.start(file, true),
  });
  const options = [
    { value: "" as TableField, label: "not used" },
    { value: "addresses" as TableField, label: "Mail address" },
    ...(fields.data ?? [])
      .filter((field) => field.name !== "mail" && field.holders.includes("person"))
      .map((field) => ({ value: field.name, label: field.label })),
  ];
  const { sample } = table;
  return (
    <Page
      title={`What stands in ${file.name}`}
      lede={
        table.isKeptMapping
          ? "Mapped as last time. Look at the first people, then go on."
          : "Proposed by the columns’ names and by what stands in them. Correct what is wrong; the choice is kept for next time."
      }
      action={
        <>
          <Button onClick={() => void navigate("/people")}>Put away</Button>
          <Button
            look="main"
            disabled={!isUsable(mapping) || keep.isPending || upload.isBusy}
            onClick={() => keep.mutate()}
          >
            See what it would do
          </Button>
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <Trouble error={keep.error ?? upload.error ?? preview.error} />
        <FileProgress share={upload.share} />
        <p className="text-second text-soft">
          Read as {encodings[sample.form.encoding]}, cells parted by {delimiterWord(sample.form.delimiter)},{" "}
          {sample.form.hasHeader ? "with a row of names" : "without a row of names"}. People are known again by{" "}
          <Choice
            label="Known again by"
            look="condition"
            value={mapping.key[0] ?? ""}
            options={[
              { value: "", label: "nothing yet" },
              ...sample.columns.map((column) => ({ value: column, label: column })),
            ]}
            onChange={(column) => setMapping(setKey(mapping, column))}
          />
        </p>
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_380px] gap-8">
          <div className="min-h-0 overflow-y-auto">
            <table className="w-full">
              <caption className="sr-only">Columns</caption>
              <thead>
                <tr className="border-b border-ink text-left text-small text-soft">
                  <th className="py-1 font-semibold">Column</th>
                  <th className="py-1 font-semibold">First cells</th>
                  <th className="w-44 py-1 font-semibold">Is</th>
                  <th className="w-64 py-1 font-semibold">Changed</th>
                </tr>
              </thead>
              <tbody>
                {sample.columns.map((column, index) => {
                  const field = fieldOf(mapping, column);
                  return (
                    <tr key={column} className="border-b border-line">
                      <td className="max-w-40 truncate py-1 pr-3 font-semibold">{column}</td>
                      <td className="max-w-44 truncate py-1 pr-3 text-second text-soft">
                        {sample.rows
                          .map((row) => row[index])
                          .filter(Boolean)
                          .slice(0, 3)
                          .join(" · ")}
                      </td>
                      <td className="py-1 pr-3">
                        <Choice
                          label={`${column} is`}
                          value={field}
                          options={options}
                          onChange={(next) => setMapping(setField(mapping, column, next))}
                        />
                      </td>
                      <td className="py-1">
                        {field !== "" && field !== "addresses" && (
                          <TransformList
                            label={column}
                            transforms={transformsOf(mapping, column)}
                            onChange={(next) => setMapping(setTransforms(mapping, column, next))}
                          />
                        )}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          <section aria-label="The first people" className="min-h-0 overflow-y-auto border-l border-line pl-5">
            <h2 className="mb-1 font-semibold">The first people, as they would be</h2>
            {!isUsable(mapping) && (
              <p className="text-ochre">Say which column is the name, and by which people are known again.</p>
            )}
            <ul>
              {preview.data?.slice(0, 8).map((person) => (
                <li key={`${person.name}${person.addresses[0] ?? ""}`} className="border-b border-line py-1.5">
                  <span className="font-semibold">{person.name}</span>{" "}
                  <span className="text-second text-soft">{person.addresses.join(", ") || "no address"}</span>
                  <div className="text-second">
                    {Object.entries(person.facts)
                      .filter(([name]) => name !== "displayName")
                      .map(
                        ([name, value]) =>
                          `${fields.data?.find((field) => field.name === name)?.label ?? name}: ${value}`,
                      )
                      .join(" · ")}
                  </div>
                </li>
              ))}
            </ul>
          </section>
        </div>
      </div>
    </Page>
  );
}

const encodings: Record<Api["TextEncoding"], string> = {
  utf8: "UTF-8",
  utf16LittleEndian: "UTF-16",
  utf16BigEndian: "UTF-16",
  windows1252: "Windows-1252",
};

function delimiterWord(delimiter: string) {
  return (
    ({ ",": "commas", ";": "semicolons", "\t": "tabs", "|": "upright strokes" } as Record<string, string>)[delimiter] ??
    delimiter
  );
}
