using Mono.Cecil;
using Mono.Cecil.Cil;

namespace LitFuse.Shape.Tests;

/// <summary>One type that uses another, both by full name; nested types count as the one they stand in.</summary>
public readonly record struct Use(string From, string To);

/// <summary>
/// Which type uses which, read from compiled assemblies: bases, interfaces, attributes, fields, signatures,
/// constraints, locals and every instruction. A list of <c>using</c> lines cannot see what is named in full, reached
/// through a field or called as an extension; the compiled code hides nothing but constants, which
/// <see cref="ConstantsIn"/> lists.
/// </summary>
public static class TypeGraph
{
    private const string Ours = "LitFuse.";

    /// <summary>Reads assemblies of this folder.</summary>
    /// <param name="folder">Where they lie.</param>
    /// <param name="names">Without <c>.dll</c>.</param>
    public static IReadOnlySet<Use> Read(string folder, params string[] names)
    {
        var uses = new HashSet<Use>();
        foreach (var type in Types(folder, names))
            Visit(type, to => Note(uses, Top(type), to));
        return uses;
    }

    /// <summary>
    /// Public constants that are no enum's, as <c>Namespace.Type.Name</c>: the compiler writes their value in, so
    /// nobody who uses one shows.
    /// </summary>
    public static IReadOnlyList<(string Type, string Name)> ConstantsIn(string folder, params string[] names) =>
        [
            .. Types(folder, names)
                .Where(t => !t.IsEnum)
                .SelectMany(t =>
                    t.Fields.Where(f => f.HasConstant && f.IsPublic).Select(f => (Top(t).FullName, f.Name))
                ),
        ];

    private static IEnumerable<TypeDefinition> Types(string folder, string[] names)
    {
        using var resolver = new DefaultAssemblyResolver();
        resolver.AddSearchDirectory(folder);
        foreach (var name in names)
        {
            using var module = ModuleDefinition.ReadModule(
                Path.Combine(folder, name + ".dll"),
                new ReaderParameters { AssemblyResolver = resolver }
            );
            foreach (
                var type in module
                    .GetTypes()
                    .Where(t =>
                        Top(t).Namespace is { } at
                        && at.StartsWith(Ours, StringComparison.Ordinal)
                        && !at.EndsWith(".Migrations", StringComparison.Ordinal)
                    )
            )
                yield return type;
        }
    }

    private static TypeReference Top(TypeReference type)
    {
        while (type.DeclaringType is { } outer)
            type = outer;
        return type;
    }

    private static void Note(HashSet<Use> uses, TypeReference from, TypeReference? to)
    {
        switch (to)
        {
            case null or GenericParameter:
                return;
            case GenericInstanceType generic:
                Note(uses, from, generic.ElementType);
                foreach (var argument in generic.GenericArguments)
                    Note(uses, from, argument);
                return;
            case TypeSpecification specification:
                Note(uses, from, specification.ElementType);
                return;
            default:
                var top = Top(to);
                if (top.Namespace.StartsWith(Ours, StringComparison.Ordinal) && top.FullName != from.FullName)
                    uses.Add(new(from.FullName, top.FullName));
                return;
        }
    }

    private static void Visit(TypeDefinition type, Action<TypeReference?> use)
    {
        use(type.BaseType);
        foreach (var one in type.Interfaces)
            use(one.InterfaceType);
        Attributes(type, use);
        foreach (var field in type.Fields)
            use(field.FieldType);
        foreach (var property in type.Properties)
        {
            use(property.PropertyType);
            Attributes(property, use);
        }

        foreach (var method in type.Methods)
            Visit(method, use);
    }

    private static void Visit(MethodDefinition method, Action<TypeReference?> use)
    {
        Signature(method, use);
        Attributes(method, use);
        foreach (var constraint in method.GenericParameters.SelectMany(p => p.Constraints))
            use(constraint.ConstraintType);
        if (!method.HasBody)
            return;
        foreach (var local in method.Body.Variables)
            use(local.VariableType);
        foreach (var caught in method.Body.ExceptionHandlers)
            use(caught.CatchType);
        foreach (var instruction in method.Body.Instructions)
            Visit(instruction, use);
    }

    private static void Visit(Instruction instruction, Action<TypeReference?> use)
    {
        switch (instruction.Operand)
        {
            case MethodReference called:
                use(called.DeclaringType);
                Signature(called, use);
                break;
            case FieldReference field:
                use(field.DeclaringType);
                use(field.FieldType);
                break;
            case TypeReference type:
                use(type);
                break;
            default:
                break;
        }
    }

    private static void Signature(MethodReference method, Action<TypeReference?> use)
    {
        use(method.ReturnType);
        foreach (var parameter in method.Parameters)
            use(parameter.ParameterType);
        if (method is GenericInstanceMethod generic)
            foreach (var argument in generic.GenericArguments)
                use(argument);
    }

    private static void Attributes(ICustomAttributeProvider of, Action<TypeReference?> use)
    {
        foreach (var attribute in of.CustomAttributes)
            use(attribute.AttributeType);
    }
}
