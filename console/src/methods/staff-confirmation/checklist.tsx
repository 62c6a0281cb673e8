/** What has to be done before somebody is confirmed, each to be ticked. */
export function Checklist({
  name,
  items,
  checked,
  onChange,
}: {
  name: string;
  items: string[];
  checked: string[];
  onChange: (checked: string[]) => void;
}) {
  return (
    <fieldset className="flex flex-col">
      <legend className="sr-only">{name}</legend>
      {items.map((one) => (
        <label key={one} className="flex min-h-9 items-start gap-3 py-1.5 pointer-coarse:min-h-11 pointer-coarse:py-2">
          <input
            type="checkbox"
            className="accent-accent mt-0.5 size-5 shrink-0"
            checked={checked.includes(one)}
            onChange={(event) =>
              onChange(event.target.checked ? [...checked, one] : checked.filter((other) => other !== one))
            }
          />
          <span>{one}</span>
        </label>
      ))}
    </fieldset>
  );
}
