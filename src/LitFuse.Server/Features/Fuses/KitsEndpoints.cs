using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Kits;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A kit as it would be for this client: a filled run sheet.</summary>
/// <param name="Faults">What would have to be mended before it could be armed.</param>
public sealed record KitRow(
    string Key,
    string Name,
    string For,
    string Sentence,
    FuseDefinition Definition,
    IReadOnlyList<FuseFault> Faults
);

/// <summary>The kits, and what they are made for.</summary>
/// <param name="Client">The key of the client.</param>
public sealed record KitList(IReadOnlyList<KitRow> Kits, FuseContext Around, string Client);

/// <summary>Complete fuses to begin from.</summary>
public static class KitsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/api/kits", ListAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Fuses")
            .WithSummary("Complete fuses to begin from, made for a client");

    private static async Task<Results<Ok<KitList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        FuseContextReader reader,
        CancellationToken stop,
        string? client = null,
        string? form = null
    )
    {
        if (form is not null)
        {
            client = await db
                .Forms.Where(f => f.Key == form)
                .Join(db.Clients, f => f.ClientId, c => c.Id, (_, c) => c.Key)
                .SingleOrDefaultAsync(stop);
            if (client is null)
                return Problems.NotThere.Because($"There is no form '{form}' for you.");
        }

        if (string.IsNullOrWhiteSpace(client))
            return Problems.Bad("client", "Say for which client, or for which form.");
        if (await db.ChosenAsync(scope, client, stop) is not [var clientId])
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var around = await reader.ReadAsync(clientId, stop);
        var has = SurroundingsOf(around, form);
        return TypedResults.Ok(
            new KitList(
                [
                    .. StarterKits.All.Select(kit =>
                    {
                        var definition = kit.Build(has);
                        return new KitRow(
                            kit.Key,
                            definition.Name,
                            kit.For,
                            FuseSentence.Say(definition),
                            definition,
                            FuseFaults.Find(definition, around.ForFaults())
                        );
                    }),
                ],
                around,
                client
            )
        );
    }

    /// <summary>What a kit looks at.</summary>
    /// <param name="around">The client's.</param>
    /// <param name="form">The key of the form that it is made for; <c>null</c>: for whatever the client has.</param>
    public static KitSurroundings SurroundingsOf(FuseContext around, string? form = null) =>
        new(
            [.. around.Forms.Where(f => form is null ? f.Receives : f.Key == form).Select(f => f.Key)],
            [.. around.Fields.Select(f => new KitField(f.Key, f.Label, f.Choices, f.Type))],
            [.. (around.Channels ?? []).Select(c => c.Key)],
            [.. (around.People ?? []).Select(p => p.Key)],
            [.. around.Colleagues.Where(c => c.Rep).Select(c => c.Id.ToString())],
            around.Stages
        );
}
