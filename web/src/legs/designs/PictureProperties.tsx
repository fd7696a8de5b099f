import type { Api } from "../../api/client";
import { Choice } from "../../kit/Choice";
import type { Fields, Props } from "./blockForm";
import { CropFrame } from "./CropFrame";
import { shownSize } from "./designState";
import { Library } from "./Library";
import { useLibrary } from "./useLibrary";
import { Row, SizeRow, TextInput, Titled } from "./Row";

type Picture = Api["BlockPicture"];

const shapes = [
  { value: "square", label: "As it is" },
  { value: "rounded", label: "Rounded corners" },
  { value: "circle", label: "Circle" },
] as const;

/** A picture of the library, or each person's own from a field. */
export function PictureProperties({ block, fields, everyField, onChange }: Props<Picture> & { everyField: Fields }) {
  const pictureFields = everyField.filter((field) => field.kind === "picture");
  const field = block.field ?? "";
  const chosen = useLibrary().data?.find((one) => one.sha256 === block.sha256);
  return (
    <Titled title="Picture">
      <Row label="Shows">
        <Choice
          label="Shows"
          value={field}
          options={[
            { value: "", label: "a picture of the library" },
            ...pictureFields.map((one) => ({ value: one.name, label: `each person’s ${one.label.toLowerCase()}` })),
          ]}
          onChange={(next) => onChange("source of a picture", { ...block, field: next }, "")}
        />
      </Row>
      {field === "" && (
        <Library
          label="The library"
          value={block.sha256}
          onPick={(picture) =>
            onChange("another picture", { ...block, sha256: picture.sha256, crop: null, ...shownSize(picture) }, "")
          }
        />
      )}
      {field === "" && chosen && (
        <Row label="Part shown">
          <CropFrame
            sha256={chosen.sha256}
            name={chosen.name}
            picture={{ width: chosen.width, height: chosen.height, ratio: block.height / block.width }}
            crop={block.crop ?? null}
            onChange={(crop) => onChange("part of a picture", { ...block, crop }, "crop")}
          />
        </Row>
      )}
      <Row label="Shape">
        <Choice
          label="Shape"
          value={block.shape ?? "square"}
          options={shapes}
          onChange={(shape) => onChange("shape of a picture", { ...block, shape }, "")}
        />
      </Row>
      {(block.shape ?? "square") !== "square" && (
        <Row label="Around it">
          <TextInput
            label="Colour around it"
            value={block.ground ?? ""}
            placeholder="see-through"
            isValid={(text) => text === "" || /^#[0-9a-f]{6}$/i.test(text)}
            hint="Six digits, like #1d2a33, or nothing for see-through."
            onChange={(ground) => onChange("ground of a picture", { ...block, ground }, "ground")}
          />
        </Row>
      )}
      <SizeRow
        row="Width"
        label="Width"
        unit="px"
        least={1}
        most={800}
        value={block.width}
        onChange={(width) => onChange("width of a picture", { ...block, width }, "width")}
      />
      <SizeRow
        row="Height"
        label="Height"
        unit="px"
        least={1}
        most={400}
        value={block.height}
        onChange={(height) => onChange("height of a picture", { ...block, height }, "height")}
      />
      <Row label="Says">
        <TextInput
          label="Text for those who do not see it"
          value={block.altText}
          isValid={(text) => text.trim().length > 0}
          hint="A picture needs a text."
          onChange={(altText) => onChange("text of a picture", { ...block, altText }, "alt")}
        />
      </Row>
      <Row label="then">
        <Choice
          label="Field that follows the text"
          value={block.altField ?? ""}
          options={[
            { value: "", label: "nothing more" },
            ...fields.map((one) => ({ value: one.name, label: one.label })),
          ]}
          onChange={(altField) => onChange("text of a picture", { ...block, altField }, "")}
        />
      </Row>
      <Row label="Leads to">
        <Choice
          label="Leads to"
          value={block.linkField ?? ""}
          options={[
            { value: "", label: "a fixed address, or nowhere" },
            ...fields.filter((one) => one.kind === "web").map((one) => ({ value: one.name, label: one.label })),
          ]}
          onChange={(linkField) => onChange("link of a picture", { ...block, linkField }, "")}
        />
      </Row>
      {(block.linkField ?? "") === "" && (
        <Row label="Address">
          <TextInput
            label="Address it leads to"
            value={block.link}
            placeholder="https://"
            isValid={(text) => text === "" || /^https?:\/\/[^\s@]+\.[^\s@]+$/.test(text)}
            hint="An http or https address, or nothing."
            onChange={(link) => onChange("link of a picture", { ...block, link }, "link")}
          />
        </Row>
      )}
      <p className="text-second text-soft">
        It is made at exactly this size, and at twice the pixels where it is linked: the part that is shown, or as much
        of the middle as fits.
      </p>
    </Titled>
  );
}
