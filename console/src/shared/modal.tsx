import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./ui";

/**
 * A dialog over the page: what it is about, what it holds, and at its foot what can be done. Escape, a click beside it and the
 * button that closes it all mean the same.
 */
export function Modal({
  open,
  onOpenChange,
  trigger,
  title,
  description,
  wide = false,
  children,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** What opens it; without one the page does. */
  trigger?: ReactNode;
  title: ReactNode;
  description: ReactNode;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>}
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-[rgb(10_20_24/0.5)]" />
        <Dialog.Content
          className={`pop bg-surface text-ink shadow-pop fixed inset-x-4 top-[6vh] z-20 mx-auto flex max-h-[88vh] flex-col gap-4 overflow-y-auto rounded-lg p-5 ${wide ? "max-w-3xl" : "max-w-lg"}`}
        >
          <div>
            <Dialog.Title className="text-lg font-semibold">{title}</Dialog.Title>
            <Dialog.Description className="text-muted">{description}</Dialog.Description>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The foot of a dialog: the way out, and what it is for. `aside` stands apart on the left. */
export function ModalFoot({
  close = "Not now",
  aside,
  children,
}: {
  close?: string;
  aside?: ReactNode;
  children?: ReactNode;
}) {
  return (
    <div className="flex flex-wrap items-center justify-end gap-2">
      {aside && <span className="mr-auto">{aside}</span>}
      <Dialog.Close asChild>
        <Button>{close}</Button>
      </Dialog.Close>
      {children}
    </div>
  );
}
