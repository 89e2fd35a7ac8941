using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Whose a submission is, and how its values and addresses become a lead's.</summary>
public sealed partial class SubmissionProcessor
{
    private static readonly PersonSketch NobodyYet = new(null, null, null);

    /// <summary>Whose a submission is. Of one that is known to be a lead's, whose its addresses are beside.</summary>
    private LeadMatch<Lead> MatchOf(ReadSubmission one, Lead? known)
    {
        var (submission, mapped) = (one.Submission, one.Mapped!);
        var said = new PersonSketch(
            mapped.Values.GetValueOrDefault("first_name"),
            mapped.Values.GetValueOrDefault("last_name"),
            mapped.Email
        );
        // To the lead that it is known to be of, an address of its own is no question, and one that nobody has is new.
        IReadOnlyList<Lead> Owners(ContactKey key) =>
            people.Owners(submission.ClientId, key, submission.Test) is var owners
            && known is not null
            && owners.Contains(known)
                ? [known]
                : owners;
        var match = LeadMatcher.Match(mapped.Keys(), said, Owners, l =>
            l == known ? NobodyYet : new(l.FirstName, l.LastName, l.Email)
        );
        return known is null
            ? match
            : match with
            {
                Lead = known,
                Conflict = match.Lead is { } other && other != known ? other : match.Conflict,
            };
    }

    // The one place where a submission's values and addresses become a lead's.
    private async Task<IReadOnlyList<LeadEvent>> KnowAsync(
        Lead lead,
        ReadSubmission one,
        LeadMatch<Lead> match,
        Instant now,
        bool fresh,
        CancellationToken stop
    )
    {
        var (submission, mapped) = (one.Submission, one.Mapped!);
        var keys = mapped.Keys();
        // An address that is another lead's is not written to under this name until a person has decided; one that
        // people share is each's.
        var contested = keys.Where(k =>
                !match.Shared.Contains(k)
                && people.Owners(submission.ClientId, k, submission.Test) is { Count: > 0 } owners
                && !owners.Contains(lead)
            )
            .Select(k => k.Value)
            .ToHashSet(StringComparer.Ordinal);
        var changes = Fill(
            lead,
            contested.Count == 0 ? one : one with { Mapped = Without(mapped, contested) },
            now,
            fresh
        );
        foreach (var key in match.NewKeys)
            await people.AddAsync(lead, key, stop);
        if (match.Conflict is { } other)
            Conflict(lead, other, submission, mapped, shared: match.Shared.Count > 0, now);
        foreach (var (field, unread) in mapped.Faults)
            Tell(lead, submission, StoryKind.AnswerUnread, now, $"{FormOf(submission).LabelOf(field)}: {unread}", now);
        if (people.Unwanted(submission.ClientId, keys) is { } unwanted && lead.DoNotContactAt is null)
        {
            lead.DoNotContactAt = now;
            Tell(
                lead,
                submission,
                StoryKind.DoNotContact,
                now,
                $"{unwanted.Value} is on the do-not-contact list: nothing automatic speaks to them",
                now
            );
        }

        return changes;
    }

    private static MappedLead Without(MappedLead mapped, HashSet<string> contested) =>
        mapped with
        {
            Values = mapped
                .Values.Where(v => v.Key is not ("phone" or "email") || !contested.Contains(v.Value))
                .ToDictionary(v => v.Key, v => v.Value, StringComparer.Ordinal),
            Phones = [.. mapped.Phones.Where(p => !contested.Contains(p.E164))],
            Emails = [.. mapped.Emails.Where(e => !contested.Contains(e))],
        };

    private IReadOnlyList<LeadEvent> Fill(Lead lead, ReadSubmission one, Instant now, bool fresh)
    {
        var setup = SetupOf(one.Submission);
        var said = one.Mapped!.Values;
        // Rules may ask for it; a clean submission takes nothing back that an earlier one said.
        if (one.Submission.Junk > 0)
            said = new Dictionary<string, string>(said, StringComparer.Ordinal)
            {
                ["junk_score"] = one.Submission.Junk.ToString(System.Globalization.CultureInfo.InvariantCulture),
            };
        LeadFiller.Keep(lead, one.Mapped.Unmapped);
        if (fresh)
        {
            LeadFiller.Fill(lead, said, one.Mapped.Phone, setup.Client.Zone);
            return [];
        }

        var had = lead.Fields;
        var (values, changes) = Refill.Later(lead.Fields, said, setup.RuleOf);
        LeadFiller.Fill(lead, values, one.Mapped.Phone, setup.Client.Zone);
        if (FieldChangeWords.Of(changes, setup.Fields) is { } words)
            Tell(lead, one.Submission, StoryKind.FieldsChanged, now, words, now);
        var taken = changes
            .Where(c => c.Taken)
            .Select(c => LeadChanging.FieldChanged(c.Field, c.Before ?? "", c.After ?? "", now))
            .ToList();
        return taken.Count == 0
            ? []
            :
            [
                .. taken,
                LeadEvent.Of(EventKeys.CameToMatch, now, "they came to match what lights it") with
                {
                    FieldsBefore = had,
                },
            ];
    }

    private void Conflict(Lead lead, Lead other, Submission submission, MappedLead mapped, bool shared, Instant now)
    {
        var what = shared
            ? $"{mapped.Phone?.E164} is also {other.ShownName()}'s: they gave other names and addresses, so each stays a person of their own"
            : $"the telephone number is also {other.ShownName()}'s";
        Tell(lead, submission, StoryKind.LeadConflict, now, what, now);
        Tell(
            other,
            submission,
            StoryKind.LeadConflict,
            now,
            shared
                ? $"{lead.ShownName()} gave their telephone number too"
                : $"their telephone number came with {lead.ShownName()}'s email",
            now
        );
        // Asked once of two people, however often they come.
        if (db.Conflicts.Local.Any(c => c.LeadId == lead.Id && c.OtherId == other.Id))
            return;
        db.Conflicts.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                OtherId = other.Id,
                SubmissionId = submission.Id,
                Words = shared
                    ? $"{lead.ShownName()} and {other.ShownName()} both gave {mapped.Phone?.E164}"
                    : $"{mapped.Email} is {lead.ShownName()}, {mapped.Phone?.E164} is {other.ShownName()}",
                FoundAt = now,
            }
        );
        db.NoteChange(lead.ClientId, ChangeKind.Conflict, lead.Id);
    }
}
