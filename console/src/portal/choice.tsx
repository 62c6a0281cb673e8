import { ChevronRight } from "lucide-react";
import type { LucideIcon } from "lucide-react";

/** One of several ways to go on, large enough for a thumb. */
export function Choice({
  icon: Icon,
  title,
  about,
  busy,
  disabled,
  method,
  onClick,
}: {
  icon: LucideIcon;
  title: string;
  about?: string;
  busy: boolean;
  disabled: boolean;
  method?: string;
  onClick: () => void;
}) {
  return (
    <button
      type="button"
      data-method={method}
      aria-busy={busy}
      disabled={disabled}
      onClick={onClick}
      className="border-control bg-surface hover:bg-sunken flex min-h-16 w-full items-center gap-3 rounded-lg border p-4 text-left disabled:opacity-60"
    >
      <Icon aria-hidden className="text-accent-ink size-5 shrink-0" />
      <span className="flex min-w-0 flex-1 flex-col">
        <strong className="font-semibold">{title}</strong>
        {about && <span className="text-muted">{about}</span>}
      </span>
      <ChevronRight aria-hidden className="text-muted size-5 shrink-0" />
    </button>
  );
}
