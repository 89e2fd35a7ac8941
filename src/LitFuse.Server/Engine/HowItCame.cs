using LitFuse.Core.Mapping;
using LitFuse.Data;

namespace LitFuse.Server.Engine;

/// <summary>How a submission came, in words for the story; and whether it brought what is needed.</summary>
public static class HowItCame
{
    /// <summary>The line of the story.</summary>
    public static string Say(Form form, Submission submission, Envelope? envelope, string? source) =>
        envelope?.Via switch
        {
            "hand" => $"{form.Name}, typed in by {envelope.Person}",
            "api" => $"{form.Name}, with the key {envelope.Person}",
            "test" => $"{form.Name}, a test sent by {envelope.Person}",
            "recovered" => $"{form.Name}, recovered: {source} had it and told nobody",
            _ => form.Name + (submission.Test ? ", a test" : ""),
        };

    /// <summary>True when a lead field is there, and can be used where it is an address.</summary>
    public static bool Has(MappedLead mapped, string field) =>
        field switch
        {
            "phone" => mapped.Phone is not null,
            "email" => mapped.Email is not null,
            _ => mapped.Values.GetValueOrDefault(field) is { Length: > 0 },
        };
}
