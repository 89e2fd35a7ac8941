using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>
/// The lines of one client, kept: a change of one thing has only those lines judged anew that it is part of. What is
/// judged is the same as if all were.
/// </summary>
public sealed class LineBoard
{
    private readonly Dictionary<Guid, LineForm> forms = [];
    private readonly Dictionary<Guid, FuseLine> fuses = [];
    private readonly Dictionary<string, LineConnection> connections = new(StringComparer.Ordinal);
    private readonly Dictionary<Guid, FormLine> lines = [];

    // Those to be judged whole, and those of which only the services are to be.
    private readonly HashSet<Guid> due = [],
        served = [];

    // Fuses by the form and the source that light them; forms by their key and source.
    private readonly Dictionary<string, HashSet<Guid>> byForm = new(StringComparer.Ordinal),
        bySource = new(StringComparer.Ordinal);
    private readonly Dictionary<string, HashSet<Guid>> keyed = new(StringComparer.Ordinal),
        ofSource = new(StringComparer.Ordinal);
    private readonly HashSet<Guid> byAny = [];
    private readonly Dictionary<Guid, IReadOnlyList<FuseLine>> lit = [];
    private LineClient client = new(Guid.Empty, "", null, null);

    /// <summary>The lines as they were judged last.</summary>
    public IReadOnlyDictionary<Guid, FormLine> Lines => lines;

    /// <summary>The forms.</summary>
    public IReadOnlyDictionary<Guid, LineForm> Forms => forms;

    /// <summary>Puts what is known of the client.</summary>
    public void Put(LineClient known)
    {
        if (client == known)
            return;
        client = known;
        due.UnionWith(forms.Keys);
    }

    /// <summary>Puts what is known of a connection.</summary>
    public void Put(LineConnection connection)
    {
        if (connections.GetValueOrDefault(connection.Id) == connection)
            return;
        connections[connection.Id] = connection;
        // The same fuses burn for the same forms: only what is said of the service is another.
        foreach (var fuse in fuses.Values.Where(f => f.Services.Any(s => s.Connections.Contains(connection.Id))))
            served.UnionWith(LitBy(fuse));
    }

    /// <summary>Puts what is known of a form.</summary>
    public void Put(LineForm form)
    {
        if (forms.TryGetValue(form.Id, out var before) && (before.Key != form.Key || before.Source != form.Source))
            Unlist(before);
        forms[form.Id] = form;
        Index(keyed, form.Key).Add(form.Id);
        Index(ofSource, form.Source).Add(form.Id);
        due.Add(form.Id);
    }

    /// <summary>A form is there no more.</summary>
    public void RemoveForm(Guid id)
    {
        if (forms.Remove(id, out var before))
            Unlist(before);
        lines.Remove(id);
        due.Remove(id);
        served.Remove(id);
    }

    /// <summary>Puts what is known of a fuse.</summary>
    public void Put(FuseLine fuse)
    {
        RemoveFuse(fuse.Id);
        fuses[fuse.Id] = fuse;
        foreach (var key in fuse.Forms)
            Index(byForm, key).Add(fuse.Id);
        foreach (var source in fuse.Sources)
            Index(bySource, source).Add(fuse.Id);
        if (fuse.ByAnyForm)
            byAny.Add(fuse.Id);
        Touch(fuse);
    }

    /// <summary>A fuse is there no more.</summary>
    public void RemoveFuse(Guid id)
    {
        if (!fuses.Remove(id, out var before))
            return;
        foreach (var key in before.Forms)
            byForm[key].Remove(id);
        foreach (var source in before.Sources)
            bySource[source].Remove(id);
        byAny.Remove(id);
        Touch(before);
    }

    /// <summary>Judges every line anew.</summary>
    /// <returns>Those that changed.</returns>
    public IReadOnlyList<FormLine> All(Instant now)
    {
        due.UnionWith(forms.Keys);
        return Changed(now);
    }

    /// <summary>Judges those anew that something was put for.</summary>
    /// <returns>Those that changed.</returns>
    public IReadOnlyList<FormLine> Changed(Instant now)
    {
        var changed = new List<FormLine>();
        foreach (var id in due)
        {
            var line = LineCheck.Of(forms[id], FusesOf(forms[id]), connections, client, now);
            if (!line.SameAs(lines.GetValueOrDefault(id)))
                changed.Add(line);
        }

        foreach (var id in served)
        {
            if (due.Contains(id) || !lines.TryGetValue(id, out var before))
                continue;
            var line = LineCheck.Served(before, forms[id], FusesOf(forms[id]), connections);
            if (!line.SameAs(before))
                changed.Add(line);
        }

        foreach (var line in changed)
            lines[line.FormId] = line;
        served.Clear();
        due.Clear();
        return changed;
    }

    private IReadOnlyList<FuseLine> FusesOf(LineForm form)
    {
        if (lit.TryGetValue(form.Id, out var known))
            return known;
        var ids = new SortedSet<Guid>(byAny);
        if (byForm.TryGetValue(form.Key, out var own))
            ids.UnionWith(own);
        if (bySource.TryGetValue(form.Source, out var whole))
            ids.UnionWith(whole);
        // Ids grow with time: fuses are read in the order in which they were made.
        return lit[form.Id] = [.. ids.Select(i => fuses[i])];
    }

    private void Touch(FuseLine fuse)
    {
        foreach (var id in LitBy(fuse))
        {
            lit.Remove(id);
            due.Add(id);
        }
    }

    private IEnumerable<Guid> LitBy(FuseLine fuse) =>
        fuse.ByAnyForm
            ? forms.Keys
            : fuse
                .Forms.SelectMany(k => keyed.GetValueOrDefault(k) ?? [])
                .Concat(fuse.Sources.SelectMany(s => ofSource.GetValueOrDefault(s) ?? []));

    private void Unlist(LineForm form)
    {
        lit.Remove(form.Id);
        keyed[form.Key].Remove(form.Id);
        ofSource[form.Source].Remove(form.Id);
    }

    private static HashSet<Guid> Index(Dictionary<string, HashSet<Guid>> index, string key)
    {
        if (!index.TryGetValue(key, out var ids))
            index[key] = ids = [];
        return ids;
    }
}
