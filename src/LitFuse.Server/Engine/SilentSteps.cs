using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Does what steps change of a lead, or tell in Lit Fuse, in the transaction that decided it.</summary>
internal sealed class SilentSteps(AppDb db, Lead lead, ClientConfig setup, Instant now, int depth)
{
    /// <summary>Does it.</summary>
    /// <returns>How the story tells it.</returns>
    public (StoryKind Kind, string Words) Do(BurnEffect.Do step, Consequences consequences)
    {
        string Setting(string key) => step.Settings.GetValueOrDefault(key)?.Trim() ?? "";
        if (
            LeadChanging.Decide(
                step.Kind,
                step.Settings,
                LeadChanges.StandingOf(lead),
                setup.Fields.GetValueOrDefault,
                setup.Client.Country,
                now
            ) is
            { } change
        )
        {
            LeadChanges.Apply(lead, change.Now, setup.Client.Country, setup.Client.Zone);
            consequences.Happened.AddRange(change.Happened.Select(h => h with { Depth = depth }));
            return (StoryKind.StepDone, change.Words);
        }

        switch (step.Kind)
        {
            case StepKinds.SetOwner:
                if (setup.ColleagueOf(Setting("colleague"), lead) is not { } colleague)
                    return (StoryKind.StepFailed, "that person does not work for this client any more");
                (lead.OwnerId, var before) = (colleague.Id, lead.OwnerId);
                return (
                    StoryKind.StepDone,
                    before == colleague.Id
                        ? $"{colleague.Name} answers for them already"
                        : $"{colleague.Name} answers for them now"
                );
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
        if (setup.ColleagueOf(person, lead) is not { } colleague)
            return "nobody answers for them, so nobody was told: " + words;
        db.Notices.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = lead.ClientId,
                UserId = colleague.Id,
                LeadId = lead.Id,
                Words = words,
                At = now,
            }
        );
        db.NoteChange(lead.ClientId, ChangeKind.Notice, colleague.Id);
        return $"{colleague.Name} was told: {words}";
    }

    private (StoryKind Kind, string Words) WriteRow(IReadOnlyDictionary<string, string> settings)
    {
        var cells = settings
            .Where(s => s.Key.StartsWith("columns.", StringComparison.Ordinal))
            .ToDictionary(s => s.Key["columns.".Length..], s => s.Value, StringComparer.Ordinal);
        var sheet = (settings.GetValueOrDefault("sheet") ?? "").Trim();
        if (sheet.Length is 0 or > FileRow.LongestName)
            return (StoryKind.StepFailed, $"a file's name has between 1 and {FileRow.LongestName} characters");
        if (lead.Test && cells.Count > 0)
            cells[cells.Keys.First()] = "TEST · " + cells.Values.First();
        var id = Guid.CreateVersion7();
        db.FileRows.Add(
            new()
            {
                Id = id,
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                Sheet = sheet,
                RowKey = settings.GetValueOrDefault("mode") == "change" ? lead.Id : id,
                Cells = cells,
                At = now,
            }
        );
        return (StoryKind.StepDone, $"a row in “{sheet}”");
    }
}
