// The wire to a live instrument: the bridge, or a serial port of this browser. What is heard goes to
// `heard`: line(number, text), status(text), lease(told), away(sentence), lost(sentence).
// This page to the bridge: the same over a reload, another in a tab that was opened as its copy.
const KEPT = "brunt-live-page";
const client = sessionStorage.getItem(KEPT) ?? crypto.randomUUID();
sessionStorage.removeItem(KEPT);
addEventListener("pagehide", () => sessionStorage.setItem(KEPT, client));
addEventListener("pageshow", () => sessionStorage.removeItem(KEPT));

// Through the bridge: opening takes the instrument up for a specimen, from the next line on.
export function bridged(box, specimen, heard, over = false) {
  const base = box.at ?? `${location.protocol}//${location.hostname}:${box.port}`;
  const asks = new URLSearchParams({ token: box.token, client });
  const told = new URLSearchParams([...asks, ["specimen", specimen], ["over", over ? "1" : ""]]);
  const source = new EventSource(`${base}/stream?${told}`);
  source.onmessage = (event) => {
    for (const said of event.data.split("\n")) {
      const cut = said.indexOf(" ");
      heard.line(Number(said.slice(0, cut)), said.slice(cut + 1));
    }
  };
  source.addEventListener("status", (event) => heard.status(event.data));
  source.addEventListener("lease", (event) => heard.lease(JSON.parse(event.data)));
  source.onerror = () => {
    if (source.readyState === EventSource.CLOSED)
      heard.lost("The bridge does not answer for this page any more; reload it and connect again.");
    else heard.away("Cut off; what comes meanwhile is kept and sent when it is back.");
  };
  return {
    close: () => source.close(),
    leave: () => {
      source.close();
      fetch(`${base}/leave?${asks}`, { method: "POST", keepalive: true }).catch(() => {});
    },
    say: (line) =>
      fetch(`${base}/say?${new URLSearchParams([...asks, ["line", line]])}`, { method: "POST" }).catch(() =>
        heard.status("The bridge cannot be reached."),
      ),
  };
}

// A serial port of this browser; nobody else can have it. Its lines are numbered here.
export async function ownSerial(baudRate, heard) {
  if (!navigator.serial) throw new Error("this browser has no serial ports; use the bridge");
  const port = await navigator.serial.requestPort();
  await port.open({ baudRate });
  let going = true;
  let number = 0;
  const reader = port.readable.getReader();
  const text = new TextDecoder();
  let held = "";
  (async () => {
    try {
      while (going) {
        const { value, done } = await reader.read();
        if (done) break;
        held += text.decode(value, { stream: true });
        const lines = held.split(/\r?\n/);
        held = lines.pop();
        for (const one of lines) heard.line((number += 1), one);
      }
      heard.lost("The port is closed.");
    } catch {
      heard.lost("The port was lost; connect it again.");
    }
  })();
  const close = () => {
    going = false;
    reader.cancel().finally(() => port.close());
  };
  return { close, leave: close, say: () => {} };
}
