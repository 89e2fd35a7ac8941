using System.Globalization;
using System.Text.Encodings.Web;
using Fluid;
using Fluid.Values;

namespace LitFuse.Core.Words;

/// <summary>A list that can be gone through, and that by itself is written one thing a line.</summary>
internal sealed class BlockValue(IReadOnlyList<FluidValue> values) : FluidValue
{
    public override FluidValues Type => FluidValues.Array;

    public override bool Equals(FluidValue? other) => ReferenceEquals(this, other);

    public override bool ToBooleanValue() => values.Count > 0;

    public override decimal ToNumberValue() => values.Count;

    public override string ToStringValue() => string.Join('\n', values.Select(v => v.ToStringValue()));

    public override object ToObjectValue() => values.Select(v => v.ToObjectValue()).ToArray();

    public override ValueTask WriteToAsync(TextWriter output, TextEncoder encoder, CultureInfo cultureInfo)
    {
        output.Write(ToStringValue());
        return ValueTask.CompletedTask;
    }

    public override IEnumerable<FluidValue> Enumerate(TemplateContext context) => values;

    public override ValueTask<FluidValue> GetValueAsync(string name, TemplateContext context) =>
        new(
            name switch
            {
                "size" => NumberValue.Create(values.Count),
                "first" => values.Count > 0 ? values[0] : NilValue.Instance,
                "last" => values.Count > 0 ? values[^1] : NilValue.Instance,
                _ => NilValue.Instance,
            }
        );

    public override ValueTask<FluidValue> GetIndexAsync(FluidValue index, TemplateContext context)
    {
        var at = (int)index.ToNumberValue();
        return new(at >= 0 && at < values.Count ? values[at] : NilValue.Instance);
    }
}

/// <summary>An answer: <c>label</c> and <c>value</c>; by itself <c>label: value</c>.</summary>
internal sealed class AnswerValue(string label, string value) : FluidValue
{
    public override FluidValues Type => FluidValues.Object;

    public override bool Equals(FluidValue? other) => ReferenceEquals(this, other);

    public override bool ToBooleanValue() => true;

    public override decimal ToNumberValue() => 0;

    public override string ToStringValue() => $"{label.TrimEnd(':', ' ')}{(label.EndsWith('?') ? "" : ":")} {value}";

    public override object ToObjectValue() => ToStringValue();

    public override ValueTask WriteToAsync(TextWriter output, TextEncoder encoder, CultureInfo cultureInfo)
    {
        output.Write(ToStringValue());
        return ValueTask.CompletedTask;
    }

    public override ValueTask<FluidValue> GetValueAsync(string name, TemplateContext context) =>
        new(
            name switch
            {
                "label" => new StringValue(label),
                "value" => new StringValue(value),
                _ => NilValue.Instance,
            }
        );
}
