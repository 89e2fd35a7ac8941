using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Ways;

/// <summary>How access to a kind of source is had.</summary>
public enum AccessBy
{
    /// <summary>None is needed.</summary>
    Nothing,

    /// <summary>A person consents on the service's own page (OAuth 2.0, RFC 6749).</summary>
    Consent,

    /// <summary>We show an address and a key, to be pasted into the service.</summary>
    KeyOfOurs,
}

/// <summary>A kind of source as it is shown to who chooses one.</summary>
/// <param name="Kind">As in <c>sources.kind</c>.</param>
/// <param name="What">What it is, in a few words.</param>
/// <param name="Arrives">How its submissions reach us, in a sentence.</param>
/// <param name="PlaceWord">What a part of it is called: page, ad account; empty where it has none.</param>
/// <param name="Permissions">Those that are needed.</param>
/// <param name="Guide">Getting access, step by step.</param>
/// <param name="MakesForms">Its forms are made here, rather than found there.</param>
public sealed record SourceKindCard(
    string Kind,
    string Name,
    string What,
    string Arrives,
    AccessBy Access,
    string PlaceWord,
    IReadOnlyList<PermissionNeed> Permissions,
    IReadOnlyList<string> Guide,
    bool MakesForms
);

/// <summary>A request at the door, as far as proving its sender goes.</summary>
public readonly record struct DoorCall(IHeaderDictionary Headers, ReadOnlyMemory<byte> Body, Instant Now);

/// <summary>One kind of place that leads come from. A kind is a folder with all that is its own.</summary>
public abstract class SourceKind
{
    /// <summary>How it is shown.</summary>
    public abstract SourceKindCard Card { get; }

    /// <summary>Where it stands among those that are offered: the lowest comes first.</summary>
    public abstract int Place { get; }

    /// <summary>Reads a stored or arriving body into answers. Never throws: what cannot be read says why.</summary>
    /// <param name="picks">Fields picked from it, for kinds that pick.</param>
    /// <param name="contentType">As sent.</param>
    /// <param name="raw">As it came.</param>
    public virtual ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    ) => RawBody.ReadAsync(contentType, raw);

    /// <summary>Why a sender has not proved itself with <paramref name="secret"/>, or <c>null</c>.</summary>
    public virtual string? Refuse(string secret, DoorCall call) => null;

    /// <summary>A new secret for a source of this kind, as its sender takes it.</summary>
    public virtual string NewSecret() => Keys.Secret();

    /// <summary>The fields of a form nobody has seen before, as far as a body tells them.</summary>
    public virtual IReadOnlyList<FormField> Learn(ReadOnlyMemory<byte> raw) => [];

    /// <summary>The row of a file it offers, read as the body it pushes would be.</summary>
    public virtual ReadOnlyMemory<byte> OfRow(IReadOnlyDictionary<string, string> row) =>
        System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(row, Core.CoreJson.Options);
}

/// <summary>All kinds of source that there are.</summary>
public sealed class SourceKinds(IEnumerable<SourceKind> all)
{
    private readonly Dictionary<string, SourceKind> byKind = all.ToDictionary(k => k.Card.Kind, StringComparer.Ordinal);

    /// <summary>In the order in which they are offered.</summary>
    public IReadOnlyList<SourceKind> All { get; } = [.. all.OrderBy(k => k.Place)];

    /// <summary>The kind by this name.</summary>
    public SourceKind Of(string kind) => byKind[kind];

    /// <summary>The kind by this name, or <c>null</c>.</summary>
    public SourceKind? Find(string kind) => byKind.GetValueOrDefault(kind);
}
