using LitFuse.Core.Forms;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using Npgsql;

namespace LitFuse.Server.Intake;

/// <summary>Which ending a person gets.</summary>
public sealed class EndingChooser(NpgsqlDataSource database)
{
    /// <summary>
    /// The ending of <paramref name="form"/>; another one for somebody the client knows, where the form has it.
    /// </summary>
    /// <returns><c>null</c> when the form has no endings of its own.</returns>
    public async ValueTask<FormEnding?> ChooseAsync(FormAddress form, Payload payload, CancellationToken stop)
    {
        if (form.Design is not { } design)
            return null;
        if (design.EndingIfKnown is not { } other || ObviousMap.Of(design.AsFields()) is not { } map)
            return design.Ending;
        await using var ask = database.CreateCommand(
            "select exists (select 1 from lead_contacts where client_id = $1 and value = any($2))"
        );
        ask.Parameters.Add(new() { Value = form.ClientId });
        ask.Parameters.Add(new() { Value = Keys(map, payload, await CountryAsync(form.ClientId, stop)) });
        return (bool)(await ask.ExecuteScalarAsync(stop))! ? other : design.Ending;
    }

    private async Task<string> CountryAsync(Guid clientId, CancellationToken stop)
    {
        await using var ask = database.CreateCommand("select country from clients where id = $1");
        ask.Parameters.Add(new() { Value = clientId });
        return (string)(await ask.ExecuteScalarAsync(stop))!;
    }

    private static string[] Keys(FieldMap map, Payload payload, string country) =>
        [.. MapReader.Apply(map, payload.Answers, country).Keys().Select((ContactKey k) => k.Value)];
}
