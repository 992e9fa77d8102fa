import { useEffect } from "react";
import { useMe } from "../api/people";
import { useDesigns } from "../api/queries";
import { Empty } from "../parts/Empty";
import { Frame } from "./Frame";
import { usePlace } from "./place";
import { SignIn } from "./SignIn";

/** The door, then the workbench. */
export function App() {
  const me = useMe();
  if (me.data) return <Designs />;
  if (me.isError) return <SignIn />;
  return <Empty title={me.failureCount > 0 ? "The server does not answer" : "Opening…"} hint={me.failureCount > 0 ? "Is `make start` still running? This page tries again by itself." : ""} />;
}

/** Choose a design: the one in the address, else the first there is. */
function Designs() {
  const { place, go } = usePlace();
  const designs = useDesigns();
  const first = designs.data?.[0]?.id ?? null;
  const known = designs.data?.some((d) => d.id === place.design) ?? false;
  useEffect(() => {
    if (!known && first) go({ design: first });
  }, [known, first, go]);
  if (designs.data?.length === 0)
    return <Empty title="No design is open to you" hint="Ask whoever administers one to let you read it, or send a design file to /api/designs (docs/http.md)." />;
  if (!known || !place.design) return <Empty title="Opening…" hint="" />;
  return <Frame key={place.design} design={place.design} />;
}
