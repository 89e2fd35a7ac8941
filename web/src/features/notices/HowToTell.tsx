import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { keepNoticeChoices, useNoticeChoices } from "./noticeChoices";
import { playTone } from "./useAnnounced";

/** How notices make themselves known on this device. */
export function HowToTell() {
  const { sound, outside } = useNoticeChoices();
  const [refused, setRefused] = useState(false);
  const mayAsk = "Notification" in globalThis;
  const chooseOutside = async (wanted: boolean) => {
    const allowed = wanted && mayAsk ? (await Notification.requestPermission()) === "granted" : false;
    setRefused(wanted && !allowed);
    keepNoticeChoices({ outside: allowed });
  };
  return (
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
  );
}
