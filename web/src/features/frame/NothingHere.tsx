import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { PageHead } from "@/ui/Page";

export function NothingHere() {
  return (
    <Box p="5">
      <PageHead title="There is nothing at this address" />
      <Link to="/">
        <u>To the Watch</u>
      </Link>
    </Box>
  );
}
