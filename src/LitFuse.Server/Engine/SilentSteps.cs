using LitFuse.Core.Fuses;
using LitFuse.Server.Features.Sheets;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Does what steps change of a lead, or tell in Lit Fuse, in the transaction that decided it.</summary>
internal sealed class SilentSteps(AppDb db, Lead lead, ClientSetup setup, Instant now, int depth)
{
    /// <summary>Does it.</summary>
    /// <returns>How the story tells it.</returns>
    public (StoryKind Kind, string Words) Do(BurnEffect.Do step, Consequences consequences)
    {
        string Setting(string key) => step.Settings.GetValueOrDefault(key)?.Trim() ?? "";
        switch (step.Kind)
        {
            case StepKinds.Tag:
                return (StoryKind.StepDone, Changed(LeadChanges.Tag(lead, Setting("tag"), now), consequences) ? $"tagged {Setting("tag")}" : $"tagged {Setting("tag")} already");
            case StepKinds.Untag:
                return (StoryKind.StepDone, LeadChanges.Untag(lead, Setting("tag")) ? $"the tag {Setting("tag")} was taken off" : $"not tagged {Setting("tag")} anyway");
            case StepKinds.SetStage:
                return (StoryKind.StepDone, Changed(LeadChanges.Stage(lead, Setting("stage"), now), consequences) ? $"stage: {Setting("stage")}" : $"at {Setting("stage")} already");
            case StepKinds.SetOwner:
                if (setup.ColleagueOf(Setting("colleague"), lead) is not { } colleague) return (StoryKind.StepFailed, "that person does not work for this client any more");
                (lead.OwnerId, var before) = (colleague.Id, lead.OwnerId);
                return (StoryKind.StepDone, before == colleague.Id ? $"{colleague.Name} answers for them already" : $"{colleague.Name} answers for them now");
            case StepKinds.SetField:
                return (StoryKind.StepDone, SetField(Setting("field"), Setting("value"), consequences));
            case StepKinds.Notice:
                return (StoryKind.Noticed, Notify(Setting("colleague"), Setting("words")));
            case StepKinds.FileRow:
                return WriteRow(step.Settings);
            case StepKinds.LightFuse when Guid.TryParse(Setting("fuse"), out var fuse):
                consequences.Lights.Add(fuse);
                return (StoryKind.StepDone, "lights another fuse");
            default:
                return (StoryKind.StepFailed, $"nobody knows how to do “{step.Kind}”");
        }
    }

    /// <summary>Leaves a notice for somebody.</summary>
    /// <returns>How the story tells it.</returns>
    public string Notify(string person, string words)
    {
        if (setup.ColleagueOf(person, lead) is not { } colleague) return "nobody answers for them, so nobody was told: " + words;
        db.Notices.Add(new() { Id = Guid.CreateVersion7(), ClientId = lead.ClientId, UserId = colleague.Id, LeadId = lead.Id, Words = words, At = now });
        db.Tell(lead.ClientId, "notice", colleague.Id);
        return $"{colleague.Name} was told: {words}";
    }

    private (StoryKind Kind, string Words) WriteRow(IReadOnlyDictionary<string, string> settings)
    {
        var cells = settings.Where(s => s.Key.StartsWith("columns.", StringComparison.Ordinal)).ToDictionary(s => s.Key["columns.".Length..], s => s.Value, StringComparer.Ordinal);
        var sheet = (settings.GetValueOrDefault("sheet") ?? "").Trim();
        if (sheet.Length is 0 or > FileRow.LongestName) return (StoryKind.StepFailed, $"a file's name has between 1 and {FileRow.LongestName} characters");
        if (lead.Test && cells.Count > 0) cells[cells.Keys.First()] = "TEST · " + cells.Values.First();
        var id = Guid.CreateVersion7();
        db.FileRows.Add(new() { Id = id, ClientId = lead.ClientId, LeadId = lead.Id, Sheet = sheet, RowKey = settings.GetValueOrDefault("mode") == "change" ? lead.Id : id, Cells = cells, At = now });
        return (StoryKind.StepDone, $"a row in “{sheet}”");
    }

    private string SetField(string field, string value, Consequences consequences)
    {
        var known = setup.Fields.GetValueOrDefault(field) ?? LeadField.Standard.FirstOrDefault(f => f.Key == field);
        if (known is not null && value.Length > 0 && ValueReader.Read(value, known, ReadingLocale.For(null, setup.Client.Country)) is { Fault: null } read) value = read.Value;
        var before = lead.Fields.GetValueOrDefault(field) ?? "";
        if (before == value) return $"{FieldChangeWords.Label(field, setup.Fields)} is {(value.Length == 0 ? "empty" : value)} already";
        var had = lead.Fields;
        var fields = new Dictionary<string, string>(had, StringComparer.Ordinal);
        if (value.Length == 0) fields.Remove(field);
        else fields[field] = value;
        LeadFiller.Refill(lead, fields, setup.Client.Country, setup.Client.Zone);
        consequences.Happened.Add(LeadChanges.FieldChanged(field, before, value, now) with { Depth = depth });
        consequences.Happened.Add(Happening.Of(EventKeys.CameToMatch, now, "they came to match what lights it") with { Depth = depth, FieldsBefore = had });
        return $"{FieldChangeWords.Label(field, setup.Fields)}: {(before.Length == 0 ? "empty" : before)} → {(value.Length == 0 ? "empty" : value)}";
    }

    private bool Changed(Happening? happened, Consequences consequences)
    {
        if (happened is null) return false;
        consequences.Happened.Add(happened with { Depth = depth });
        return true;
    }
}
