import { clsx } from "clsx";
import { CircleAlert, CircleCheck, Info, LoaderCircle, TriangleAlert } from "lucide-react";
import type { ButtonHTMLAttributes, DetailsHTMLAttributes, InputHTMLAttributes, ReactNode } from "react";
import { useId } from "react";

type Look = "primary" | "plain" | "quiet" | "danger";

const looks: Record<Look, string> = {
  primary: "bg-accent text-on-accent hover:bg-accent-hover border-transparent",
  plain: "bg-surface text-ink border-control hover:bg-sunken",
  quiet: "bg-transparent text-accent-ink border-transparent hover:bg-accent-soft",
  danger: "bg-bad-solid text-on-accent border-transparent hover:opacity-90",
};

export function Button({
  look = "plain",
  large = false,
  busy = false,
  className,
  children,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; large?: boolean; busy?: boolean }) {
  return (
    <button
      type="button"
      {...rest}
      aria-busy={busy}
      disabled={rest.disabled || busy}
      className={clsx(
        "inline-flex items-center justify-center gap-2 rounded-md border font-medium disabled:opacity-60",
        large ? "text-md min-h-11 px-5" : "min-h-8 px-3",
        looks[look],
        className,
      )}
    >
      {busy && <LoaderCircle aria-hidden className="size-4 animate-spin" />}
      {children}
    </button>
  );
}

interface Labels {
  label: string;
  /** Above what it belongs to unless something else is said; an unseen one is only read out. */
  labelled?: "above" | "beside" | "unseen";
  hint?: ReactNode;
  error?: string;
}

/** A label, help and what is wrong below; both are read with what they belong to. */
function Labelled({
  label,
  labelled = "above",
  hint,
  error,
  children,
}: Labels & { children: (ids: object) => ReactNode }) {
  const id = useId();
  return (
    <div className={labelled === "beside" ? "flex flex-wrap items-center gap-2" : "flex min-w-0 flex-col gap-1"}>
      <label htmlFor={id} className={labelled === "unseen" ? "sr-only" : "font-medium"}>
        {label}
      </label>
      {children({
        id,
        "aria-invalid": error ? true : undefined,
        "aria-describedby": `${id}-hint ${id}-error`,
      })}
      {hint && (
        <div id={`${id}-hint`} className="text-muted text-sm">
          {hint}
        </div>
      )}
      <div id={`${id}-error`} role="alert" className="text-bad text-sm empty:hidden">
        {error}
      </div>
    </div>
  );
}

/** A labelled input. */
export function Field({
  label,
  labelled,
  hint,
  error,
  large = false,
  className,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & Labels & { large?: boolean }) {
  return (
    <Labelled label={label} labelled={labelled} hint={hint} error={error}>
      {(ids) => (
        <input
          {...rest}
          {...ids}
          className={clsx(
            "bg-surface text-ink rounded-md border px-3",
            large ? "text-md min-h-11" : "min-h-8",
            error ? "border-bad" : "border-control",
            className,
          )}
        />
      )}
    </Labelled>
  );
}

/** Several lines with their label; as tall as what is in it, within bounds. */
export function Lines({
  value,
  most = 8,
  onChange,
  ...labels
}: Labels & { value: string; most?: number; onChange: (value: string) => void }) {
  return (
    <Labelled {...labels}>
      {(ids) => (
        <textarea
          {...ids}
          rows={Math.min(most, Math.max(2, value.split("\n").length))}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={clsx(
            "bg-surface text-ink rounded-md border px-3 py-1.5",
            labels.error ? "border-bad" : "border-control",
          )}
        />
      )}
    </Labelled>
  );
}

/** A labelled choice. An option is its own words, unless it comes with others. */
export function Select<T extends string>({
  value,
  options,
  empty = "all",
  autoFocus,
  disabled,
  onChange,
  ...labels
}: Labels & {
  value: T;
  options: readonly (T | { value: T; text: string })[];
  /** What the empty option says. */
  empty?: string;
  autoFocus?: boolean;
  disabled?: boolean;
  onChange: (value: T) => void;
}) {
  return (
    <Labelled {...labels}>
      {(ids) => (
        <select
          {...ids}
          autoFocus={autoFocus}
          disabled={disabled}
          value={value}
          onChange={(event) => onChange(event.target.value as T)}
          className={clsx(
            "bg-surface text-ink min-h-8 max-w-full min-w-0 rounded-md border px-2",
            labels.error ? "border-bad" : "border-control",
          )}
        >
          {options.map((option) => {
            const { value: own, text } = typeof option === "string" ? { value: option, text: option } : option;
            return (
              <option key={own} value={own}>
                {text || empty}
              </option>
            );
          })}
        </select>
      )}
    </Labelled>
  );
}

/** What is folded away until somebody asks for it. */
export function Disclosure({
  summary,
  framed = false,
  className,
  children,
  ...rest
}: Omit<DetailsHTMLAttributes<HTMLDetailsElement>, "summary"> & { summary: ReactNode; framed?: boolean }) {
  return (
    <details {...rest} className={clsx(framed && "border-line bg-surface rounded-lg border p-3", className)}>
      <summary className="cursor-pointer rounded-sm font-medium">{summary}</summary>
      <div className="mt-3">{children}</div>
    </details>
  );
}

/** Where there is nothing yet: why, and what to do. */
export function Empty({ children }: { children: ReactNode }) {
  return <div className="border-line text-muted rounded-lg border border-dashed p-6">{children}</div>;
}

type Tone = "ok" | "info" | "warn" | "bad";
const tones: Record<Tone, string> = {
  ok: "bg-ok-soft text-ok",
  info: "bg-accent-soft text-accent-ink",
  warn: "bg-warn-soft text-warn",
  bad: "bg-bad-soft text-bad",
};
const icons = { ok: CircleCheck, info: Info, warn: TriangleAlert, bad: CircleAlert };

/** Something to read before going on. */
export function Notice({ tone, title, children }: { tone: Tone; title?: string; children?: ReactNode }) {
  const Icon = icons[tone];
  return (
    <div role={tone === "bad" ? "alert" : "status"} className={clsx("flex gap-3 rounded-lg p-3", tones[tone])}>
      <Icon aria-hidden className="mt-0.5 size-5 shrink-0" />
      <div className="flex min-w-0 flex-col gap-1">
        {title && <strong className="font-semibold">{title}</strong>}
        {children}
      </div>
    </div>
  );
}

/** A word about a state, told by shape as well as by colour. */
export function Badge({ tone, children }: { tone: Tone | "none"; children: ReactNode }) {
  const Icon = tone === "none" ? null : icons[tone];
  return (
    <span
      className={clsx(
        "inline-flex items-center gap-1 rounded-sm px-1.5 text-sm whitespace-nowrap",
        tone === "none" ? "bg-sunken text-muted" : tones[tone],
      )}
    >
      {Icon && <Icon aria-hidden className="size-3.5" />}
      <span className="self-baseline">{children}</span>
    </span>
  );
}
