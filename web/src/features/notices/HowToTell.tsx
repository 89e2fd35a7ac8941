import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { may, usePerson, useTakesCalls } from "@/app/useSession";
import { keepNoticeChoices, useNoticeChoices } from "./noticeChoices";
import { playTone } from "./useAnnounced";

/** How notices make themselves known on this device. */
export function HowToTell() {
  const { sound, outside } = useNoticeChoices();
  const [refused, setRefused] = useState(false);
  const person = usePerson();
  const calls = useTakesCalls();
  const mayAsk = "Notification" in globalThis;
  const chooseOutside = async (wanted: boolean) => {
    const allowed = wanted && mayAsk ? (await Notification.requestPermission()) === "granted" : false;
    setRefused(wanted && !allowed);
    keepNoticeChoices({ outside: allowed });
  };
  return (
    <>
      {may(person, "touch-leads") && (
        <chakra.fieldset mb="4" fontSize="14px">
          <chakra.legend fontSize="13px" color="ink2" mb="1">
            On your phone
          </chakra.legend>
          <label>
            <input
              type="checkbox"
              checked={calls.isPending ? calls.variables : person.takesCalls}
              disabled={calls.isPending}
              onChange={(e) => calls.mutate(e.target.checked)}
            />{" "}
            available: fuses may ring you to put you through to a lead
          </label>
          {calls.error && (
            <Box role="alert" color="cinder" mt="1">
              Lit Fuse did not answer, so nothing changed; try again.
            </Box>
          )}
        </chakra.fieldset>
      )}
      <chakra.fieldset mb="4" fontSize="14px">
        <chakra.legend fontSize="13px" color="ink2" mb="1">
          On this device, while Lit Fuse is open
        </chakra.legend>
        <Box display="flex" columnGap="5" rowGap="1" flexWrap="wrap">
          <label>
            <input
              type="checkbox"
              checked={sound}
              onChange={(e) => {
                keepNoticeChoices({ sound: e.target.checked });
                if (e.target.checked) playTone();
              }}
            />{" "}
            a sound with each
          </label>
          {mayAsk && (
            <label>
              <input type="checkbox" checked={outside} onChange={(e) => void chooseOutside(e.target.checked)} /> shown by the browser when
              another window is in front
            </label>
          )}
        </Box>
        {refused && (
          <Box role="alert" color="cinder" mt="1">
            The browser does not allow it. Allow notifications for this site in its settings, then choose this again.
          </Box>
        )}
      </chakra.fieldset>
    </>
  );
}
