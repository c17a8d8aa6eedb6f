import { Tooltip } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { openManual } from "../manual/open";
import { useLook } from "./look";

interface Props {
  /** What stands between the name and the actions: where the analyst is. */
  children?: ReactNode;
  actions?: ReactNode;
}

export function TopBar({ children, actions }: Props) {
  const { dark, toggle } = useLook();
  return (
    <header className="topbar">
      <Link to="/" className="brand" aria-label="Zembra, to the studies">
        <img src="/mark.svg" alt="" width={22} height={22} />
        Zembra
      </Link>
      <div className="topbar-where">{children}</div>
      <div className="topbar-actions">
        {actions}
        <Tooltip title={dark ? "Light paper" : "Dark paper"}>
          <button
            className="quiet"
            type="button"
            onClick={toggle}
            aria-label={dark ? "Light paper" : "Dark paper"}
          >
            {dark ? "☀" : "☾"}
          </button>
        </Tooltip>
        <Tooltip title="Manual and keys (?)">
          <button className="quiet" type="button" aria-label="Manual and keys" onClick={() => openManual()}>
            ?
          </button>
        </Tooltip>
      </div>
    </header>
  );
}
