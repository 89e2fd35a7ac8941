using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Server.Ways;

namespace LitFuse.Server.Engine;

/// <summary>
/// The one way in which a stored submission is read, whoever reads it: by the kind of its source. A network's body says
/// nothing to whoever takes it for a form post; so real burns, dry runs, backtests, previews and earlier leads read the
/// same.
/// </summary>
public sealed class SubmissionReader(SourceKinds kinds)
{
    /// <summary>Reads a submission of one of the client's forms.</summary>
    public ValueTask<Payload> ReadAsync(ClientConfig setup, Submission submission) =>
        ReadAsync(setup.SourceKinds[submission.FormId], setup.Forms[submission.FormId].Picks, submission);

    /// <summary>Reads a submission of a source of this kind.</summary>
    public ValueTask<Payload> ReadAsync(string kind, IReadOnlyList<Pick> picks, Submission submission) =>
        kinds.Of(kind).ReadAsync(picks, submission.ContentType, submission.Raw);

    /// <summary>A submission as something that happened, as fuses pick it, with what it says.</summary>
    public async ValueTask<AskedBy> AskedAsync(ClientConfig setup, Submission submission)
    {
        var form = setup.Forms[submission.FormId];
        var answers = (await ReadAsync(setup, submission)).Answers;
        return new(
            form,
            answers,
            LeadFactsReader.Sent(
                Core.Fuses.Definition.EventKeys.Submission,
                form,
                answers,
                setup.SourceNames.GetValueOrDefault(form.Id) ?? "",
                submission.AskedAt,
                page: Envelope.Read(submission.Envelope)?.Page
            )
        );
    }
}

/// <summary>What a submission asked, and the happening that it was.</summary>
public sealed record AskedBy(Form Form, IReadOnlyList<Answer> Answers, Core.Fuses.Definition.LeadEvent Sent);
