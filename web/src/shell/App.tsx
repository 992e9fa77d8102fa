import { useLocation } from "wouter";
import { useMe } from "../api/people";
import { useDesigns } from "../api/queries";
import { Empty } from "../parts/Empty";
import { CampaignsPage } from "../campaigns/CampaignsPage";
import { DesignsPage } from "../designs/DesignsPage";
import { FloorPage } from "../floor/FloorPage";
import { Frame } from "./Frame";
import { usePlace } from "./place";
import { SignIn } from "./SignIn";

/** The door, then the workbench. */
export function App() {
  const [path] = useLocation();
  const [, , design, page, number] = path.split("/");
  return page === "sheet" && design && Number(number) > 0 ? <FloorPage design={design} number={Number(number)} /> : <Desk />;
}

function Desk() {
  const me = useMe();
  if (me.data) return <Designs />;
  if (me.isError) return <SignIn />;
  return (
    <Empty
      title={me.failureCount > 0 ? "The server does not answer" : "Opening…"}
      hint={me.failureCount > 0 ? "Is `make start` still running? This page tries again by itself." : ""}
    />
  );
}

/** The design in the address, else the page of all designs. */
function Designs() {
  const { place, go } = usePlace();
  const designs = useDesigns();
  const [path] = useLocation();
  const [, first, number] = path.split("/");
  const known = designs.data?.some((d) => d.id === place.design) ?? false;
  if (!designs.data) return <Empty title="Opening…" hint="" />;
  if (first === "campaigns") return <CampaignsPage number={Number(number) > 0 ? Number(number) : null} />;
  if (!known || !place.design) return <DesignsPage onOpen={(design, stage) => go({ design, stage, at: null, pair: null })} />;
  return <Frame key={place.design} design={place.design} />;
}
