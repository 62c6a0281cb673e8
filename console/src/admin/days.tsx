import { Field } from "../shared/ui";
import type { useFilter } from "./filter";

/**
 * The moment at which a day begins by this browser's clock; moments stay as they are.
 *
 * @param later days after it
 */
export function day(text: string, later: number): string {
  if (text.includes("T")) return text;
  const [year, month, date] = text.split("-").map(Number);
  return year && month && date ? new Date(year, month - 1, date + later).toISOString() : "";
}

/** The day of a moment that a saved search begins or ends with; the end is the day before. */
function date(text: string, later: number): string {
  if (!text.includes("T")) return text;
  const at = new Date(Date.parse(text) - later);
  return `${at.getFullYear()}-${String(at.getMonth() + 1).padStart(2, "0")}-${String(at.getDate()).padStart(2, "0")}`;
}

/** The first and the last day of what is shown: since and until in the address. */
export function Days({ filter }: { filter: ReturnType<typeof useFilter> }) {
  return (
    <>
      <Field
        label="From"
        type="date"
        value={date(filter.get("since"), 0)}
        onChange={(event) => filter.set({ since: event.target.value || null })}
      />
      <Field
        label="To"
        type="date"
        value={date(filter.get("until"), 1)}
        onChange={(event) => filter.set({ until: event.target.value || null })}
      />
    </>
  );
}
