using System.Collections.Concurrent;
using System.Reflection;
using LitFuse.Server.Tests;
using Xunit;
using Xunit.v3;

[assembly: MendsAfterEachTest]

namespace LitFuse.Server.Tests;

/// <summary>
/// What a test broke outside works again after it, however the test ended: the tests of a class share a world, and one
/// that fails must not take the next with it.
/// </summary>
[AttributeUsage(AttributeTargets.Assembly)]
public sealed class MendsAfterEachTestAttribute : BeforeAfterTestAttribute
{
    private static readonly ConcurrentDictionary<string, World> Broken = new(StringComparer.Ordinal);

    /// <summary>Notes that the test that runs breaks something in this world.</summary>
    public static void Breaks(World world) => Broken[TestContext.Current.TestClass!.UniqueID] = world;

    /// <inheritdoc />
    public override void After(MethodInfo methodUnderTest, IXunitTest test)
    {
        if (Broken.TryRemove(test.TestCase.TestClass!.UniqueID, out var world))
            world.WorksAgainAsync().GetAwaiter().GetResult();
    }
}
