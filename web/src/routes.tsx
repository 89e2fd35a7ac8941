import { createBrowserRouter } from "react-router";
import { queries } from "./api/queries";
import { Gate } from "./features/accounts/Gate";
import { Frame } from "./features/frame/Frame";
import { NothingHere } from "./features/frame/NothingHere";
import { fuseAsked } from "./features/fuses/model/fuseAsked";
import { WatchPage } from "./features/watch/WatchPage";

// The Watch comes with the first load; every other page when it is first opened.
export const router = createBrowserRouter([
  {
    path: "/",
    element: <Gate frame={Frame} />,
    children: [
      { index: true, Component: WatchPage },
      { path: "leads", lazy: async () => ({ Component: (await import("./features/leads/LeadsPage")).LeadsPage }) },
      { path: "leads/:leadId", lazy: async () => ({ Component: (await import("./features/leads/LeadPage")).LeadPage }) },
      { path: "sources", lazy: async () => ({ Component: (await import("./features/sources/SourcesPage")).SourcesPage }) },
      { path: "leads/new", lazy: async () => ({ Component: (await import("./features/leads/AddLeadPage")).AddLeadPage }) },
      { path: "sources/new", lazy: async () => ({ Component: (await import("./features/sources/NewSourcePage")).NewSourcePage }) },
      { path: "sources/new/:kind", lazy: async () => ({ Component: (await import("./features/sources/NewSourcePage")).ConnectPage }) },
      { path: "sources/from/:sourceId", lazy: async () => ({ Component: (await import("./features/sources/SourcePage")).SourcePage }) },
      { path: "sources/files/:importId", lazy: async () => ({ Component: (await import("./features/imports/ImportPage")).ImportPage }) },
      {
        path: "sources/:formId/build",
        lazy: async () => ({ Component: (await import("./features/builder/FormBuilderPage")).FormBuilderPage }),
      },
      { path: "sources/:formId/map", lazy: async () => ({ Component: (await import("./features/mapping/MapPage")).MapPage }) },
      { path: "take/:token", lazy: async () => ({ Component: (await import("./features/leads/TakePage")).TakePage }) },
      { path: "leads/pen", lazy: async () => ({ Component: (await import("./features/pen/PenPage")).PenPage }) },
      { path: "leads/tray", lazy: async () => ({ Component: (await import("./features/replies/TrayPage")).TrayPage }) },
      { path: "leads/same", lazy: async () => ({ Component: (await import("./features/merging/SamePage")).SamePage }) },
      { path: "setup", lazy: async () => ({ Component: (await import("./features/setup/SetupPage")).SetupPage }) },
      { path: "sources/:formId", lazy: async () => ({ Component: (await import("./features/sources/FormPage")).FormPage }) },
      {
        path: "deliveries/:deliveryId?",
        lazy: async () => ({ Component: (await import("./features/deliveries/DeliveriesPage")).DeliveriesPage }),
      },
      { path: "fuses", lazy: async () => ({ Component: (await import("./features/fuses/FusesPage")).FusesPage }) },
      { path: "fuses/burns", lazy: async () => ({ Component: (await import("./features/burns/BurnsPage")).BurnsPage }) },
      { path: "fuses/new", lazy: async () => ({ Component: (await import("./features/fuses/NewFusePage")).NewFusePage }) },
      { path: "notices", lazy: async () => ({ Component: (await import("./features/notices/NoticesPage")).NoticesPage }) },
      {
        path: "fuses/:fuseId",
        loader: ({ params }) => {
          if (params.fuseId) void queries.prefetchQuery(fuseAsked(params.fuseId));
          return null;
        },
        shouldRevalidate: ({ currentParams, nextParams }) => currentParams.fuseId !== nextParams.fuseId,
        lazy: async () => ({ Component: (await import("./features/fuses/RunSheetPage")).RunSheetPage }),
      },
      { path: "*", Component: NothingHere },
    ],
  },
]);
