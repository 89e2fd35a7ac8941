import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Problem, tokenFromCookie } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { Field, Input } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";

/** Sends a file to be looked at, with how far it is. */
function upload(file: File, client: string, source: string | undefined, progress: (share: number) => void): Promise<string> {
  return new Promise((done, failed) => {
    const request = new XMLHttpRequest();
    const query = new URLSearchParams({ client, name: file.name, ...(source ? { source } : {}) });
    request.open("POST", `/api/imports?${query}`);
    request.setRequestHeader("X-XSRF-TOKEN", tokenFromCookie());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (e) => progress(e.lengthComputable ? e.loaded / e.total : 0);
    request.onload = () => {
      const body: unknown = request.responseText ? JSON.parse(request.responseText) : null;
      if (request.status === 201) done((body as { id: string }).id);
      else failed(Problem.from(request.status, body));
    };
    request.onerror = () => failed(new Error("the upload broke off"));
    request.send(file);
  });
}

/** Chooses a file of leads and uploads it; nothing is imported yet. */
export function UploadFile({ client, source }: { client: string; source?: string }) {
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const send = async (file: File | undefined) => {
    if (!file) return;
    setError(null);
    setShare(0);
    try {
      const id = await upload(file, client, source, setShare);
      void navigate(withClient(`/sources/files/${id}`, chosen?.key));
    } catch (e) {
      setError(e);
      setShare(null);
    }
  };
  return (
    <Box>
      <Field label="The file" hint="CSV or XLSX, at most 256 MB. You see what was found in it before anything is imported.">
        {(ids) => (
          <Input
            {...ids}
            type="file"
            accept=".csv,.txt,.tsv,.xlsx"
            disabled={!client || share !== null}
            onChange={(e) => void send(e.target.files?.[0])}
          />
        )}
      </Field>
      {!client && <Box fontSize="13px">Choose the client first.</Box>}
      {share !== null && (
        <Box role="status">
          <progress value={share} max={1} aria-label="Uploaded" /> {Math.round(share * 100)} % uploaded
        </Box>
      )}
      {error !== null && <ErrorTold error={error} />}
    </Box>
  );
}
