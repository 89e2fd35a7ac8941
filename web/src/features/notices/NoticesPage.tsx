import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { PageHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { HowToTell } from "./HowToTell";
import { useNotices } from "./useNotices";

/** What fuses told me here, newest first. */
export function NoticesPage() {
  const notices = useNotices();
  const now = useNow(10_000);
  const read = useAct(() => unwrap(api.POST("/api/notices/read")), ["notices"]);
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="860px">
      <PageHead title="Notices" beside="what fuses told you here, and lines that were cut">
        {notices.data && notices.data.unread > 0 && (
          <Button onClick={() => read.mutate(undefined)} disabled={read.isPending}>
            I have read them
          </Button>
        )}
      </PageHead>
      <HowToTell />
      {notices.error && <ErrorTold error={notices.error} again={() => void notices.refetch()} />}
      {notices.isPending && <Fetching what="notices" />}
      {notices.data?.notices.length === 0 && (
        <Empty said="No notice yet.">
          A fuse leaves one here when a step of it is “Notice in Lit Fuse”, or when a step fails and you are told; and when a line is cut.
        </Empty>
      )}
      <Box as="ul" listStyleType="none">
        {notices.data?.notices.map((n) => (
          <Box as="li" key={n.id} borderTopWidth="1px" py="2" display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
            <Box as="span" fontFamily="mono" fontSize="12px" color="ink2" minW="72px">
              {span((now - Date.parse(n.at)) / 1000)} ago
            </Box>
            <Box flex="1" minW="200px" fontWeight={n.readAt ? 400 : 700}>
              {n.words}
            </Box>
            <Link to={n.leadId ? `/leads/${n.leadId}` : `/sources/${n.formId}`}>
              <u>{n.about}</u>
            </Link>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
