import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import { COMMANDS, type Command, HINTS } from "../../desk/commands";
import { COMMAND_IDS, haveKeys, keysNow } from "../../desk/bound";
import { commandNamed } from "../../desk/keys";
import { say } from "../../desk/steps";
import { useDesk } from "../../desk/store";
import {
  commandOf,
  type KeySet,
  keyOfEvent,
  keysFromJson,
  keysToJson,
  rebound,
  refused,
  shownKey,
} from "../../model/bindings";
import { Choice } from "../../ui/Choice";
import { Dialog } from "../../ui/opened";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

/** A command that waits for a key, and what was pressed that is another's. */
interface Waiting {
  id: string;
  key: string;
  says: string;
}

/** All keys, by what they are for: as the person has them, and given anew by a click. */
export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  const ink = useInks();
  const keyed = useDesk((s) => s.keyed);
  const [waiting, setWaiting] = useState<Waiting | null>(null);
  const bound = keysNow(keyed);
  const list = useRef<HTMLDivElement>(null);
  const groups = [...new Set(COMMANDS.map((command) => command.group))];

  function give(id: string, key: string | null) {
    haveKeys(rebound(keyed, id, key));
    leave(id);
  }

  /** What was pressed last may be gone by now: the focus stays in the list, where Escape closes it. */
  function leave(id: string) {
    list.current?.querySelector<HTMLElement>(`[data-command="${id}"]`)?.focus();
    setWaiting(null);
  }

  function press(event: React.KeyboardEvent) {
    if (!waiting) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Escape") return leave(waiting.id);
    const key = keyOfEvent(event.nativeEvent);
    if (!key) return; // Shift, Ctrl or Alt, and more to come
    if (key === "backspace") return give(waiting.id, null);
    const says = refused(key);
    const other = commandOf(bound, key);
    if (says) setWaiting({ ...waiting, key: "", says });
    else if (other && other !== waiting.id)
      setWaiting({ ...waiting, key, says: `${shownKey(key)} does “${commandNamed(other)?.does}” now.` });
    else give(waiting.id, key);
  }

  return (
    <Dialog
      open={open}
      onClose={() => {
        setWaiting(null);
        onClose();
      }}
      maxWidth="lg"
      aria-label="Keys"
    >
      <Box ref={list} onKeyDownCapture={press} sx={{ p: 3, fontSize: 12.5 }}>
        <Head />
        <Box sx={{ columnCount: 3, columnGap: 4, mt: 2 }}>
          {groups.map((group) => (
            <Box key={group} sx={{ mb: 2 }}>
              <Box component="h2" sx={{ fontSize: 13, m: 0, mb: 0.5, color: ink.blue, breakAfter: "avoid" }}>
                {group}
              </Box>
              {COMMANDS.filter((command) => command.group === group).map((command) => (
                <Row
                  key={command.id}
                  command={command}
                  keys={bound[command.id] ?? []}
                  waiting={waiting?.id === command.id ? waiting : null}
                  onBegin={() => setWaiting({ id: command.id, key: "", says: "" })}
                  onTake={() => waiting && give(command.id, waiting.key)}
                  onLeave={() => leave(command.id)}
                />
              ))}
              {HINTS.filter((hint) => hint.group === group).map((hint) => (
                <Box key={hint.shown} sx={{ display: "flex", gap: 1, lineHeight: 1.5, breakInside: "avoid", py: 0.25 }}>
                  <Box sx={{ width: 104, flex: "none", color: ink.faint }}>{hint.shown}</Box>
                  <span>{hint.does}</span>
                </Box>
              ))}
            </Box>
          ))}
        </Box>
      </Box>
    </Dialog>
  );
}

interface RowProps {
  command: Command;
  keys: string[];
  waiting: Waiting | null;
  onBegin: () => void;
  onTake: () => void;
  onLeave: () => void;
}

function Row({ command, keys, waiting, onBegin, onTake, onLeave }: RowProps) {
  const ink = useInks();
  const said = keys.map(shownKey).join(", ");
  return (
    <Box sx={{ breakInside: "avoid", py: 0.25 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <SmallButton
          on={!!waiting}
          data-command={command.id}
          onClick={onBegin}
          aria-label={`${command.does}: ${said || "no key"}`}
          title="Click, then press its new key; Backspace takes it away"
          sx={{ width: 104, height: 20, flex: "none", fontWeight: 700, color: keys.length ? undefined : ink.faint }}
        >
          {waiting ? "press a key" : said || "none"}
        </SmallButton>
        <span>{command.does}</span>
      </Box>
      {waiting?.says && (
        <Box role="alert" sx={{ color: ink.red, display: "flex", gap: 0.5, alignItems: "center", mt: 0.25 }}>
          <span>{waiting.says}</span>
          {waiting.key && (
            <>
              <SmallButton sx={{ height: 20 }} onClick={onTake}>
                Take it
              </SmallButton>
              <SmallButton sx={{ height: 20 }} onClick={onLeave}>
                Leave it
              </SmallButton>
            </>
          )}
        </Box>
      )}
    </Box>
  );
}

/** Which set is had, and all of it out and in as a file. */
function Head() {
  const ink = useInks();
  const keyed = useDesk((s) => s.keyed);
  const file = useRef<HTMLInputElement>(null);
  const own = Object.keys(keyed.own[keyed.set]).length;
  function out() {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([keysToJson(keyed)], { type: "application/json" }));
    link.download = "hame-keys.json";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  }
  async function take(given: File | undefined) {
    if (!given) return;
    try {
      haveKeys(keysFromJson(JSON.parse(await given.text()), COMMAND_IDS));
      say("The keys of the file are yours now.");
    } catch (error) {
      const text =
        error instanceof SyntaxError
          ? "This file is no JSON. Your keys stay as they were."
          : String((error as Error).message);
      say(text, true);
    }
  }
  return (
    <Box sx={{ display: "flex", gap: 0.75, alignItems: "center" }}>
      <Box component="h1" sx={{ fontSize: 15, m: 0, mr: 1 }}>
        Keys
      </Box>
      <Choice<KeySet>
        label="For"
        show
        value={keyed.set}
        options={[
          { value: "both", label: "Both hands" },
          { value: "left", label: "The left hand alone" },
        ]}
        onChange={(set) => haveKeys({ ...keyed, set })}
      />
      <Box sx={{ color: ink.faint, flex: 1 }}>
        Click a key to give the command another one. {own ? `${own} changed by you.` : ""}
      </Box>
      <SmallButton
        disabled={!own}
        onClick={(e) => {
          haveKeys({ ...keyed, own: { ...keyed.own, [keyed.set]: {} } });
          // It cannot be pressed any more, and the focus stays where Escape closes the list.
          e.currentTarget.closest<HTMLElement>("[role=dialog]")?.focus();
        }}
      >
        As shipped
      </SmallButton>
      <SmallButton onClick={out} title="As a JSON file">
        Out
      </SmallButton>
      <SmallButton onClick={() => file.current?.click()} title="From a JSON file">
        In…
      </SmallButton>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        hidden
        aria-label="Keys of a file"
        onChange={(e) => {
          void take(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
    </Box>
  );
}
