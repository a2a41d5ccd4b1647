import type { BookDevice } from "../../queries/book.ts";

/** A device's page: attached networks, routes with their reasons, watches. */
export function BookDevicePage({ device }: { device: BookDevice }) {
  const { id, label, role, site, profile, interfaces, tables, watches } = device;
  return (
    <section className="page" id={`device-${id}`}>
      <h2>{label}</h2>
      <p className="quiet">{[id, role, site, profile].filter(Boolean).join(" · ")}</p>
      <h3>Attached networks</h3>
      <table>
        <thead>
          <tr>
            <th>interface</th>
            <th>addresses</th>
            <th>with</th>
            <th>note</th>
          </tr>
        </thead>
        <tbody>
          {interfaces.map(({ name, kind, addresses, others, note, up }) => (
            <tr key={name}>
              <td>
                <code>{name}</code> {kind === "ethernet" ? "" : kind}
                {up ? "" : " (down)"}
              </td>
              <td>
                <code>{addresses.join(", ")}</code>
              </td>
              <td>{others.join(", ")}</td>
              <td>{note}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {tables.map((table) => (
        <Routes key={table.name} table={table} />
      ))}
      {watches.length > 0 && (
        <>
          <h3>Watches</h3>
          <ul>
            {watches.map(({ watch, up, assumed }) => (
              <li key={watch.id}>
                <code>{watch.id}</code>: {watch.kind}, {up ? "up" : "down"}
                {assumed && `, assuming a host at ${assumed}`}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Routes({ table: { name, routes } }: { table: BookDevice["tables"][number] }) {
  if (routes.length === 0) return null;
  return (
    <>
      <h3>{name === "main" ? "Routes" : `Routes in ${name}`}</h3>
      <table>
        <thead>
          <tr>
            <th>destination</th>
            <th>leads</th>
            <th>source</th>
            <th>distance</th>
            <th>metric</th>
            <th>stands</th>
          </tr>
        </thead>
        <tbody>
          {routes.map(({ to, via, out, source, distance, metric, state, reason, discard, watch, note }) => (
            <tr
              key={[to, via, out, source, distance, metric, watch].join(" ")}
              className={state === "in-use" ? "" : "quiet"}
            >
              <td>
                <code>{to}</code>
              </td>
              <td>
                <code>
                  {discard
                    ? "discarded"
                    : [via && `via ${via}`, out && `out ${out}`].filter(Boolean).join(" ")}
                </code>
              </td>
              <td>{source}</td>
              <td>{distance}</td>
              <td>{metric || ""}</td>
              <td>
                {state.replace("-", " ")}
                {reason ? `: ${reason.text}` : ""}
                {watch ? ` (watch ${watch})` : ""}
                {note ? ` — ${note}` : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
