import { useEffect } from "react";
import { useDesigns } from "../api/queries";
import { Empty } from "../parts/Empty";
import { Frame } from "./Frame";
import { usePlace } from "./place";

/** Choose a design: the one in the address, else the first there is. */
export function App() {
  const { place, go } = usePlace();
  const designs = useDesigns();
  const first = designs.data?.[0]?.id ?? null;
  const known = designs.data?.some((d) => d.id === place.design) ?? false;
  useEffect(() => {
    if (!known && first) go({ design: first });
  }, [known, first, go]);
  if (designs.isError) return <Empty title="The server does not answer" hint="Is `make start` still running? This page tries again by itself." />;
  if (designs.data?.length === 0)
    return <Empty title="No design yet" hint="Send one: POST a design file to /api/designs (docs/http.md), then reload." />;
  if (!known || !place.design) return <Empty title="Opening…" hint="" />;
  return <Frame key={place.design} design={place.design} />;
}
