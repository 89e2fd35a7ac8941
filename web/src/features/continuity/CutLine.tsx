import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import { secondsBetween, span } from "@/ui/time";
import { mendPath } from "./lineWords";

/** A cut with its cause, since when, and the link to the very place that mends it. */
export function CutLine({
  cut,
  now,
  clientKey,
  may,
}: {
  cut: Schemas["CutRow"];
  now: number;
  clientKey: string | undefined;
  may: boolean;
}) {
  return (
    <Box fontSize="14px" lineHeight="20px">
      <Box>
        {cut.cause}{" "}
        <Box as="span" color="ink2" whiteSpace="nowrap">
          for {span(Math.max(0, secondsBetween(cut.since, now)))}
        </Box>
      </Box>
      {may && (
        <Box fontWeight={600}>
          <Link to={withClient(mendPath(cut.mend), clientKey)}>
            <u>{cut.mend.words}</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}
