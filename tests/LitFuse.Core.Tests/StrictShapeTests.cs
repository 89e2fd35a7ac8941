using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>
/// A key that is not known in a fuse, or in a stored burn, is a mistake to be told, never to be lost in silence.
/// </summary>
public sealed class StrictShapeTests
{
    [Theory]
    [InlineData(typeof(FuseDefinition))]
    [InlineData(typeof(BurnState))]
    public void Every_part_of_it_takes_no_key_that_is_not_known(Type whole)
    {
        var (seen, open) = (new HashSet<Type>(), new Stack<Type>([whole]));
        while (open.TryPop(out var type))
        {
            var info = CoreJson.Options.GetTypeInfo(type);
            if (info.ElementType is { } element)
                open.Push(element);
            if (info.Kind != JsonTypeInfoKind.Object || !seen.Add(type))
                continue;
            Assert.True(info.UnmappedMemberHandling == JsonUnmappedMemberHandling.Disallow, type.Name);
            foreach (var property in info.Properties)
                open.Push(property.PropertyType);
        }

        Assert.True(seen.Count > 3, "the walk went nowhere");
    }
}
