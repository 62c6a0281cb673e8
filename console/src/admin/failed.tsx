import { Link } from "react-router";
import { Button } from "../shared/ui";
import { PageHead } from "./parts";

/** In place of a page that broke: nothing typed elsewhere is lost, and there is a way on. */
export function Failed() {
  return (
    <>
      <PageHead title="This page failed" under="It is a fault of the console, not of what you did." />
      <p className="mb-4 max-w-prose">
        Nothing was changed by it. Load it again; if it fails again, the command line does the same work: entente --help
      </p>
      <Button look="primary" onClick={() => window.location.reload()}>
        Load again
      </Button>
    </>
  );
}

/** For an address that leads nowhere. */
export function Nowhere() {
  return (
    <>
      <PageHead title="There is no such page" under="The address may be mistyped, or what it showed is gone." />
      <Link to="/" className="text-accent-ink rounded-sm underline">
        Go to Today
      </Link>
    </>
  );
}
