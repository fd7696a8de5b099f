import { Empty, Page } from "../../kit/Page";

/** Did it do any good, what does it cost? Honestly empty until its own work is done. */
export function Results() {
  return (
    <Page title="What it did" lede="Nothing is measured yet.">
      <Empty>
        <p>
          Here will stand what signatures bring and cost: how often banners and links are followed, by audience and
          team; how many bytes a day signatures add to the company’s mail; and what went out under which edition on a
          given date.
        </p>
        <p className="mt-2">Nothing is counted yet, so there is nothing to show.</p>
      </Empty>
    </Page>
  );
}
