import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

/** A mail server that letters go through; it is tried before it is kept. */
export function MailServer({ client }: { client: string }) {
  const [open, setOpen] = useState(false);
  const [mail, setMail] = useState({ host: "", port: 587, secure: false, user: "", password: "", sender: "" });
  const make = useAct(() => unwrap(api.POST("/api/connections/mail", { body: { client, ...mail } })), ["connections"]);
  const problem = make.error instanceof Problem ? make.error : null;
  if (!open)
    return (
      <Button look="soft" onClick={() => setOpen(true)}>
        Add a mail server
      </Button>
    );
  const text = (key: "host" | "user" | "password" | "sender", label: string, hint?: string) => (
    <Field label={label} error={problem?.fieldError(key)} hint={hint}>
      {(ids) => (
        <Input
          {...ids}
          type={key === "password" ? "password" : "text"}
          autoComplete="off"
          value={mail[key]}
          onChange={(e) => setMail({ ...mail, [key]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <chakra.form
      maxW="460px"
      mt="2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(undefined, { onSuccess: () => setOpen(false) });
      }}
    >
      {text("host", "Server", "as your mail provider calls its SMTP server")}
      <Field label="Port" error={problem?.fieldError("port")}>
        {(ids) => (
          <Input
            {...ids}
            type="number"
            width="110px"
            value={mail.port}
            onChange={(e) => setMail({ ...mail, port: Number(e.target.value) })}
          />
        )}
      </Field>
      <Box mb="3" fontSize="14px">
        <label>
          <input type="checkbox" checked={mail.secure} onChange={(e) => setMail({ ...mail, secure: e.target.checked })} /> TLS from the
          start (port 465)
        </label>
      </Box>
      {text("user", "User")}
      {text("password", "Password", "kept encrypted, and shown to nobody")}
      {text("sender", "Letters come from", "Brackenwheel <hello@brackenwheel.example>")}
      <Box display="flex" gap="3">
        <Button type="submit" disabled={make.isPending || !mail.host || !mail.sender}>
          Try it and keep it
        </Button>
        <Button type="button" look="quiet" onClick={() => setOpen(false)}>
          Leave it
        </Button>
      </Box>
      {make.error && !problem?.more.errors && <ErrorTold error={make.error} />}
    </chakra.form>
  );
}
