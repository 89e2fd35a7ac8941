import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Problem, type Schemas, tokenFromCookie } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select, TextArea } from "@/ui/Field";
import { ListArea } from "@/ui/ListInput";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import type { Design } from "./design";

type Faults = readonly Schemas["DesignFault"][];
type PartProps = { design: Design; change: (next: Design) => void; faults: Faults };

const faultOf = (faults: Faults, place: string) => faults.find((f) => f.place === place)?.what ?? null;

const Tick = ({ label, hint, on, change }: { label: string; hint?: string; on: boolean; change: (on: boolean) => void }) => (
  <Box mb="2">
    <chakra.label display="flex" gap="2" alignItems="center" minH="28px">
      <input type="checkbox" checked={on} onChange={(e) => change(e.target.checked)} /> {label}
    </chakra.label>
    {hint && (
      <Box fontSize="13px" color="ink2" pl="24px">
        {hint}
      </Box>
    )}
  </Box>
);

async function keepPicture(formId: string, file: File): Promise<string> {
  const answer = await fetch(`/api/forms/${formId}/pictures`, {
    method: "POST",
    headers: { "X-XSRF-TOKEN": tokenFromCookie(), "Content-Type": "application/octet-stream" },
    body: file,
  });
  const body = await answer.json();
  if (!answer.ok) throw Problem.from(answer.status, body);
  return body.address;
}

/** Headline, words and picture above the first field, where wanted. */
export function OpeningPart({ design, change, faults, formId }: PartProps & { formId: string }) {
  const [error, setError] = useState<unknown>(null);
  const { opening } = design;
  const set = (to: Partial<NonNullable<Design["opening"]>>) => opening && change({ ...design, opening: { ...opening, ...to } });
  const picture = (file: File | undefined) => {
    if (!file) return;
    setError(null);
    keepPicture(formId, file).then((address) => set({ picture: address }), setError);
  };
  return (
    <Box mb="6" id="opening">
      <SectionHead>Opening</SectionHead>
      <Tick
        label="Begin with a headline"
        on={opening !== null}
        change={(on) => change({ ...design, opening: on ? { headline: "", words: "", picture: null, pictureWords: null } : null })}
      />
      {opening && (
        <Box pl="6">
          <Box id="opening-headline">
            <Field label="Headline" error={faultOf(faults, "opening.headline")}>
              {(ids) => <Input {...ids} value={opening.headline} onChange={(e) => set({ headline: e.target.value })} />}
            </Field>
          </Box>
          <Field label="Words below it">
            {(ids) => <TextArea {...ids} rows={2} value={opening.words} onChange={(e) => set({ words: e.target.value })} />}
          </Field>
          {opening.picture ? (
            <Box display="flex" gap="3" alignItems="flex-start" mb="3" id="opening-pictureWords">
              <img src={opening.picture} alt={opening.pictureWords ?? ""} width={96} />
              <Box flex="1">
                <Field label="What it shows, for people who cannot see it" error={faultOf(faults, "opening.pictureWords")}>
                  {(ids) => <Input {...ids} value={opening.pictureWords ?? ""} onChange={(e) => set({ pictureWords: e.target.value })} />}
                </Field>
                <Button size="small" look="soft" onClick={() => set({ picture: null, pictureWords: null })}>
                  Take the picture out
                </Button>
              </Box>
            </Box>
          ) : (
            <Field label="A picture" hint="PNG, JPEG, GIF or WebP, at most 512 KB">
              {(ids) => (
                <Input
                  {...ids}
                  type="file"
                  accept="image/png,image/jpeg,image/gif,image/webp"
                  onChange={(e) => picture(e.target.files?.[0])}
                />
              )}
            </Field>
          )}
          {error !== null && <ErrorTold error={error} />}
        </Box>
      )}
    </Box>
  );
}

/** Consent, look-over, where it may stand, the amend link. */
export function AroundPart({ design, change, faults }: PartProps) {
  const consent = design.consent ?? { words: "", privacyUrl: "", mustAgree: false };
  const set = (to: Partial<typeof consent>) => change({ ...design, consent: { ...consent, ...to } });
  return (
    <Box mb="6">
      <SectionHead>Consent</SectionHead>
      <Box id="consent-words">
        <Field label="What happens with the answers" error={faultOf(faults, "consent.words")}>
          {(ids) => <TextArea {...ids} rows={2} value={consent.words} onChange={(e) => set({ words: e.target.value })} />}
        </Field>
      </Box>
      <Box id="consent-privacyUrl">
        <Field label="Address of the privacy notice" error={faultOf(faults, "consent.privacyUrl")}>
          {(ids) => (
            <Input
              {...ids}
              type="url"
              placeholder="https://…"
              value={consent.privacyUrl}
              onChange={(e) => set({ privacyUrl: e.target.value })}
            />
          )}
        </Field>
      </Box>
      <Tick label="They must tick a box to agree" on={consent.mustAgree} change={(mustAgree) => set({ mustAgree })} />
      <SectionHead mt="5">How it behaves</SectionHead>
      <Tick
        label="Show the answers once more before they are sent"
        hint="Fewer leads, and surer ones."
        on={design.lookOver}
        change={(lookOver) => change({ ...design, lookOver })}
      />
      <Tick
        label="Hand out a link to change one's answers later"
        hint="Signed, good for 90 days; what they change updates the lead."
        on={design.amendLink}
        change={(amendLink) => change({ ...design, amendLink })}
      />
      <Box id="sendWords">
        <Field label="On the button" error={faultOf(faults, "sendWords")}>
          {(ids) => (
            <Input {...ids} maxW="200px" value={design.sendWords} onChange={(e) => change({ ...design, sendWords: e.target.value })} />
          )}
        </Field>
      </Box>
      <Box id="hosts">
        <Field
          label="It may stand on these hosts, one a line"
          hint="Empty means anywhere. A host takes its subdomains along."
          error={faults.find((f) => f.place.startsWith("hosts."))?.what ?? null}
        >
          {(ids) => (
            <ListArea
              {...ids}
              rows={2}
              values={design.hosts}
              placeholder="rides.example.com"
              onChange={(hosts) => change({ ...design, hosts })}
            />
          )}
        </Field>
      </Box>
    </Box>
  );
}

type EndingProps = {
  title: string;
  place: string;
  ending: Schemas["FormEnding"] | null;
  optional?: boolean;
  change: (ending: never) => void;
  faults: Faults;
};

/** What happens after sending. */
export function EndingPart({ title, place, ending, optional, change, faults }: EndingProps) {
  const put = change as (ending: Schemas["FormEnding"] | null) => void;
  const set = (to: Partial<Schemas["FormEnding"]>) => ending && put({ ...ending, ...to });
  return (
    <Box mb="6" id={place}>
      <SectionHead>{title}</SectionHead>
      {optional && (
        <Tick
          label="End otherwise for somebody whose address or number you have"
          hint="Whoever types an address in learns from this whether you know it."
          on={ending !== null}
          change={(on) => put(on ? { kind: "message", words: "", url: null, phone: null } : null)}
        />
      )}
      {ending && (
        <>
          <Field label="They">
            {(ids) => (
              <Select {...ids} value={ending.kind} onChange={(e) => set({ kind: e.target.value as Schemas["EndingKind"] })}>
                <option value="message">read a message</option>
                <option value="go-to">go on to an address</option>
                <option value="download">read a message and can download something</option>
                <option value="call">read a message and can call a number</option>
              </Select>
            )}
          </Field>
          {ending.kind !== "go-to" && (
            <Box id={`${place}-words`}>
              <Field label="The message" error={faultOf(faults, `${place}.words`)}>
                {(ids) => <TextArea {...ids} rows={2} value={ending.words} onChange={(e) => set({ words: e.target.value })} />}
              </Field>
            </Box>
          )}
          {(ending.kind === "go-to" || ending.kind === "download") && (
            <Box id={`${place}-url`}>
              <Field label="The address" error={faultOf(faults, `${place}.url`)}>
                {(ids) => (
                  <Input
                    {...ids}
                    type="url"
                    placeholder="https://…"
                    value={ending.url ?? ""}
                    onChange={(e) => set({ url: e.target.value })}
                  />
                )}
              </Field>
            </Box>
          )}
          {ending.kind === "call" && (
            <Box id={`${place}-phone`}>
              <Field label="The number" error={faultOf(faults, `${place}.phone`)}>
                {(ids) => <Input {...ids} type="tel" value={ending.phone ?? ""} onChange={(e) => set({ phone: e.target.value })} />}
              </Field>
            </Box>
          )}
        </>
      )}
    </Box>
  );
}
