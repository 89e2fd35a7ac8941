import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useTheme } from "next-themes";
import { type KeyboardEvent, useDeferredValue, useId, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { api, unwrap } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import { may, type Person, useSignOut } from "@/app/useSession";
import { Input } from "@/ui/Field";
import { rank } from "./rank";
import { Window } from "./Window";

type Thing = { key: string; kind: string; label: string; beside?: string; go: () => void };

/** Any lead, form, fuse, page or command by a few letters. */
export function GoToDo({ person, chosen, onClose }: { person: Person; chosen: string | undefined; onClose: () => void }) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const listId = useId();
  // What is at hand answers each letter at once; leads are asked for behind it.
  const sought = typed.trim();
  const asked = useDeferredValue(sought);
  const fixed = useFixedThings(person, chosen);
  const leads = useLeadThings(asked, may(person, "see-leads"));
  const things = useMemo(
    () => [...rank(fixed, sought, (t) => `${t.label} ${t.beside ?? ""}`).slice(0, sought ? 8 : 14), ...leads],
    [fixed, sought, leads],
  );
  const place = Math.min(at, Math.max(0, things.length - 1));

  const run = (thing: Thing | undefined) => {
    if (!thing) return;
    onClose();
    thing.go();
  };
  const press = (event: KeyboardEvent) => {
    if (event.key === "ArrowDown") setAt(Math.min(place + 1, things.length - 1));
    else if (event.key === "ArrowUp") setAt(Math.max(place - 1, 0));
    else if (event.key === "Enter") run(things[place]);
    else return;
    event.preventDefault();
  };
  return (
    <Window label="Go to / Do" onClose={onClose}>
      <Box p="3" borderBottomWidth="1px">
        <Input
          autoFocus
          role="combobox"
          aria-label="Go to / Do"
          aria-expanded="true"
          aria-controls={listId}
          aria-activedescendant={things[place] ? `${listId}-${place}` : undefined}
          placeholder="A lead, a form, a fuse, or what to do"
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value);
            setAt(0);
          }}
          onKeyDown={press}
        />
      </Box>
      <Box id={listId} role="listbox" aria-label="What fits" maxH="50vh" overflowY="auto" py="1">
        {things.map((thing, i) => (
          <chakra.div
            key={thing.key}
            id={`${listId}-${i}`}
            role="option"
            aria-selected={i === place}
            tabIndex={-1}
            px="4"
            py="7px"
            cursor="pointer"
            display="flex"
            gap="3"
            alignItems="baseline"
            bg={i === place ? "shade" : undefined}
            borderLeftWidth="3px"
            borderColor={i === place ? "sulphur" : "transparent"}
            onMouseMove={() => setAt(i)}
            onClick={() => run(thing)}
            onKeyDown={press}
          >
            <Box as="span" width="52px" flexShrink={0} fontFamily="mono" fontSize="12px" color="ink2">
              {thing.kind}
            </Box>
            <Box as="span" fontWeight={600}>
              {thing.label}
            </Box>
            <Box as="span" color="ink2" fontSize="13px" truncate>
              {thing.beside}
            </Box>
          </chakra.div>
        ))}
        {things.length === 0 && (
          <Box px="4" py="3" color="ink2">
            Nothing here by “{sought}”.
          </Box>
        )}
      </Box>
    </Window>
  );
}

function useFixedThings(person: Person, chosen: string | undefined): Thing[] {
  const navigate = useNavigate();
  const { resolvedTheme, setTheme } = useTheme();
  const signOut = useSignOut();
  const sees = { sources: may(person, "see-sources"), fuses: may(person, "see-fuses") };
  const forms = useQuery({ queryKey: ["forms", ""], enabled: sees.sources, queryFn: () => unwrap(api.GET("/api/forms")) });
  const fuses = useQuery({ queryKey: ["fuses", ""], enabled: sees.fuses, queryFn: () => unwrap(api.GET("/api/fuses")) });
  const key = person.clients.length > 1 ? chosen : undefined;
  const to = (path: string) => () => void navigate(withClient(path, key));
  return [
    { key: "watch", kind: "page", label: "Watch", beside: "who is in the air", go: to("/") },
    { key: "leads", kind: "page", label: "Leads", go: to("/leads") },
    ...(may(person, "see-leads")
      ? [
          { key: "pen", kind: "page", label: "Holding pen", beside: "what waits for approval", go: to("/leads/pen") },
          { key: "same", kind: "page", label: "Same person?", beside: "leads that may be one", go: to("/leads/same") },
          { key: "notices", kind: "page", label: "Notices", beside: "what fuses told you here; sound", go: to("/notices") },
        ]
      : []),
    ...(sees.sources ? [{ key: "sources", kind: "page", label: "Sources", beside: "forms and their maps", go: to("/sources") }] : []),
    ...(sees.fuses ? [{ key: "fuses", kind: "page", label: "Fuses", beside: "what happens next", go: to("/fuses") }] : []),
    ...(person.clients.length > 1
      ? person.clients.map((c) => ({
          key: c.id,
          kind: "client",
          label: c.name,
          beside: "everything of this client",
          go: () => void navigate(withClient("/", c.key)),
        }))
      : []),
    ...(fuses.data?.fuses ?? []).map((f) => ({ key: f.id, kind: "fuse", label: f.name, beside: f.client, go: to(`/fuses/${f.id}`) })),
    ...(forms.data?.forms ?? []).map((f) => ({
      key: f.id,
      kind: "form",
      label: f.name,
      beside: `${f.client} · ${f.source}`,
      go: to(`/sources/${f.id}`),
    })),
    ...(may(person, "touch-leads")
      ? [{ key: "add-lead", kind: "do", label: "Add a lead", beside: "somebody rang, or came by", go: to("/leads/new") }]
      : []),
    ...(may(person, "edit-sources")
      ? [
          { key: "connect", kind: "do", label: "Connect a source", go: to("/sources/new") },
          { key: "import", kind: "do", label: "Import a file of leads", go: to("/sources/new/file") },
          {
            key: "deliveries",
            kind: "page",
            label: "Deliveries",
            beside: "what left, what waits, what failed; send again",
            go: to("/deliveries"),
          },
          { key: "setup", kind: "page", label: "Setup", beside: "connections, lead fields, do not contact, tests, keys", go: to("/setup") },
        ]
      : []),
    {
      key: "theme",
      kind: "do",
      label: resolvedTheme === "dark" ? "Use the light look" : "Use the dark look",
      go: () => setTheme(resolvedTheme === "dark" ? "light" : "dark"),
    },
    { key: "sign-out", kind: "do", label: "Sign out", go: () => signOut.mutate() },
  ];
}

function useLeadThings(sought: string, allowed: boolean): Thing[] {
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["leads", "go", sought],
    enabled: allowed && sought.length >= 2,
    placeholderData: (before) => before,
    queryFn: () => unwrap(api.GET("/api/leads", { params: { query: { q: sought } } })),
  });
  if (sought.length < 2) return [];
  return (found.data?.items ?? []).slice(0, 8).map((l) => ({
    key: l.id,
    kind: "lead",
    label: l.name,
    beside: [l.form, l.email].filter(Boolean).join(" · "),
    go: () => void navigate(`/leads/${l.id}`),
  }));
}
