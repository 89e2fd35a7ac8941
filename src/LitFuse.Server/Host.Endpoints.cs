using LitFuse.Server.Delivery;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.ApiKeys;
using LitFuse.Server.Features.Backtests;
using LitFuse.Server.Features.Calls;
using LitFuse.Server.Features.Connections;
using LitFuse.Server.Features.Consent;
using LitFuse.Server.Features.Continuity;
using LitFuse.Server.Features.Deliveries;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Hours;
using LitFuse.Server.Features.Imports;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Library;
using LitFuse.Server.Features.Mapping;
using LitFuse.Server.Features.Merging;
using LitFuse.Server.Features.Notices;
using LitFuse.Server.Features.OwnForms;
using LitFuse.Server.Features.Pen;
using LitFuse.Server.Features.ReadyWords;
using LitFuse.Server.Features.Replies;
using LitFuse.Server.Features.Sheets;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Features.TestLeads;
using LitFuse.Server.Features.Visits;
using LitFuse.Server.Features.Watch;

namespace LitFuse.Server;

/// <summary>The doors of the server, one feature after the other.</summary>
public static partial class Host
{
    private static void MapEndpoints(WebApplication app)
    {
        IntakeEndpoint.Map(app);
        ToldEndpoint.Map(app);
        EmbedScripts.Map(app);
        HostedForm.Map(app);
        ReceiveNotices.Map(app);
        Session.Map(app);
        WatchEndpoint.Map(app);
        LeadListEndpoints.Map(app);
        LeadsEndpoints.Map(app);
        TakingEndpoints.Map(app);
        CallsEndpoints.Map(app);
        LibraryEndpoints.Map(app);
        TrayEndpoints.Map(app);
        HoursEndpoints.Map(app);
        MergingEndpoints.Map(app);
        LeadFieldsEndpoints.Map(app);
        Features.Mapping.MapEndpoints.Map(app);
        ReprocessEndpoints.Map(app);
        PenEndpoints.Map(app);
        DoNotContactEndpoints.Map(app);
        ConfirmPages.Map(app);
        UnsubscribePages.Map(app);
        TestLeadsEndpoints.Map(app);
        SourcesEndpoints.Map(app);
        FormsEndpoints.Map(app);
        NetworkConsent.Map(app);
        ConnectionsEndpoints.Map(app);
        DeliveriesEndpoints.Map(app);
        SheetsEndpoints.Map(app);
        NightlyEndpoints.Map(app);
        DesignEndpoints.Map(app);
        VisitEndpoint.Map(app);
        ApiKeysEndpoints.Map(app);
        AddLead.Map(app);
        ImportsEndpoints.Map(app);
        DailyFile.Map(app);
        FusesEndpoints.Map(app);
        WordsPreviewing.Map(app);
        KitsEndpoints.Map(app);
        LightingEndpoints.Map(app);
        BurnsEndpoints.Map(app);
        BurnList.Map(app);
        TryStep.Map(app);
        DryRun.Map(app);
        VersionsEndpoints.Map(app);
        HoldEndpoints.Map(app);
        CatchUp.Map(app);
        Presence.Map(app);
        BacktestsEndpoints.Map(app);
        ReadyWordsEndpoints.Map(app);
        NoticesEndpoints.Map(app);
        LinesEndpoints.Map(app);
        ComparingEndpoints.Map(app);
        ProofEndpoints.Map(app);
        DriftEndpoints.Map(app);
    }
}
