import { useOrganisation } from "../../portal/shell";
import type { SettingUp } from "../method";
import { ScanPage } from "../scan-page";
import { en as words } from "./en";

/** Scan, then show by one code that the app has the secret. */
export function SetUpApp({ offered, ...rest }: SettingUp) {
  const { secret = "", uri = "" } = offered.parts;
  const { organisation } = useOrganisation();
  return (
    <ScanPage
      {...rest}
      value={uri}
      words={{ ...words, title: words.add, image: words.image(organisation) }}
      autoComplete="one-time-code"
    >
      <a href={uri} className="text-accent-ink mt-3 block w-fit rounded-sm underline">
        {words.here}
      </a>
      <details className="mt-2">
        <summary className="text-accent-ink cursor-pointer rounded-sm">{words.cannot}</summary>
        <p className="mt-2">
          {words.key} <span className="font-mono break-all">{secret.replace(/(.{4})/g, "$1 ")}</span>
        </p>
      </details>
    </ScanPage>
  );
}
