namespace LitFuse.Core.Fields;

/// <summary>How the parts of dates stand in a file.</summary>
public enum DateOrder
{
    /// <summary>2026-11-25.</summary>
    YearMonthDay,

    /// <summary>25/11/2026.</summary>
    DayMonthYear,

    /// <summary>11/25/2026.</summary>
    MonthDayYear,
}
