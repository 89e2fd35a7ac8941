namespace LitFuse.Shape.Tests;

/// <summary>Circles in a graph of names (Tarjan's strongly connected components).</summary>
public static class Circles
{
    /// <summary>Sets of more than one name that reach each other.</summary>
    public static IReadOnlyList<IReadOnlyList<string>> In(
        IEnumerable<string> names,
        Func<string, IEnumerable<string>> known
    )
    {
        var (index, low, open, found) = (
            new Dictionary<string, int>(StringComparer.Ordinal),
            new Dictionary<string, int>(StringComparer.Ordinal),
            new Stack<string>(),
            new List<IReadOnlyList<string>>()
        );
        void Visit(string name)
        {
            index[name] = low[name] = index.Count;
            open.Push(name);
            foreach (var next in known(name))
            {
                if (!index.ContainsKey(next))
                    Visit(next);
                if (open.Contains(next))
                    low[name] = Math.Min(low[name], low[next]);
            }

            if (low[name] != index[name])
                return;
            var circle = new List<string>();
            do circle.Add(open.Pop());
            while (circle[^1] != name);
            if (circle.Count > 1)
                found.Add([.. circle.Order(StringComparer.Ordinal)]);
        }

        foreach (var name in names.Where(n => !index.ContainsKey(n)).ToList())
            if (!index.ContainsKey(name))
                Visit(name);
        return found;
    }
}
