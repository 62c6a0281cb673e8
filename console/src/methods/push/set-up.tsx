import { useOrganisation } from "../../portal/shell";
import type { SettingUp } from "../method";
import { ScanPage } from "../scan-page";
import { en as words } from "./en";

/** Scan; the app shows six digits, by which the page knows that it is this phone's key. */
export function SetUpDevice({ offered, ...rest }: SettingUp) {
  const { link = "" } = offered.parts;
  const { organisation } = useOrganisation();
  return (
    <ScanPage
      {...rest}
      value={link}
      words={{ ...words, title: words.addTitle, image: words.image(organisation) }}
      autoComplete="off"
    >
      <details className="mt-2">
        <summary className="text-accent-ink cursor-pointer rounded-sm">{words.cannot}</summary>
        <p className="mt-2 font-mono break-all" data-link>
          {link}
        </p>
      </details>
    </ScanPage>
  );
}
