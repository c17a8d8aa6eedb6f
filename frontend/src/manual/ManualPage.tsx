import { useNavigate, useParams } from "react-router";
import { TopBar } from "../app/TopBar";
import { sectionOf } from "./pages";
import { Reader, type Place } from "./Reader";

/** The manual as a page of its own, whose address can be kept. */
export function ManualPage() {
  const { page } = useParams();
  const navigate = useNavigate();
  const anchor = decodeURIComponent(window.location.hash.slice(1)) || undefined;
  const go = ({ page: to, anchor: at, kind }: Place) => {
    const section = kind ? sectionOf(kind) : undefined;
    const hash = section?.anchor ?? at;
    void navigate(`/manual/${section?.page ?? to ?? ""}${hash ? `#${hash}` : ""}`);
  };
  return (
    <div className="page">
      <TopBar>Manual</TopBar>
      <main className="manual-page">
        <Reader place={{ page, anchor }} onPlace={go} />
      </main>
    </div>
  );
}
