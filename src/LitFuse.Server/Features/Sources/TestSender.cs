using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Intake;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Sources;

/// <summary>Sends test leads with made-up answers through our own door.</summary>
public sealed class TestSender(AppDb db, FormDetailReader wholes, IntakeWriter writer, TimeProvider time)
{
    /// <summary>Sends one and waits until it is on disk.</summary>
    /// <param name="form">The form it is for.</param>
    /// <param name="onlyTo">To whose own addresses all of it goes; <c>null</c>: down the real line.</param>
    /// <param name="person">Who sends it, by name.</param>
    /// <param name="stop">Cancels.</param>
    /// <returns>What was sent, or why it cannot be.</returns>
    public async Task<(MadeTestLead? Sent, string? Fault)> SendAsync(
        Form form,
        Guid? onlyTo,
        string? person,
        CancellationToken stop
    )
    {
        if (form.State == FormState.Offered)
            return (null, "Choose the form first.");
        var fields =
            form.Fields.Count > 0
                ? form.Fields
                : (await wholes.ReadAsync(form.Id, stop))!
                    .Fields.Select(f => new FormField(f.Name, f.Label, f.Type, f.Required, f.Choices, f.LeadField))
                    .ToList();
        if (fields.Count == 0)
            return (null, "Nobody knows yet what this form asks. Send it once from its page.");
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == form.ClientId, stop);
        var answers = MadeUpAnswers.For(fields, client.Country, Random.Shared);
        var payload = Payload.FromAnswers(answers);
        var raw = System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(
            answers.ToDictionary(a => a.Field, a => a.Value, StringComparer.Ordinal),
            Core.CoreJson.Options
        );
        var arrival = new Arrival(form.ClientId, form.Id, "application/json", raw, payload, null)
        {
            Test = true,
            SentAt = time.Now(),
            Envelope = new Envelope("test", Person: person, OnlyTo: onlyTo).Write(),
        };
        if (!writer.TryQueue(arrival))
            return (null, Problems.Busy.Title);
        var stored = await arrival.Done.Task;
        return (new(stored.Receipt, [.. answers.Select(a => new AnswerLine(form.LabelOf(a.Field), a.Value))]), null);
    }
}
