namespace LitFuse.Core.Replies;

/// <summary>
/// What somebody is told who wanted no more texts: once, in a language of the country of their number.
/// </summary>
public static class OptOutConfirmations
{
    private const string English = "{0}: you will get no more texts from us. Write START if you want them again.";

    private static readonly Dictionary<string, string> ByCountry = new(StringComparer.Ordinal)
    {
        ["DE"] = "{0}: Sie bekommen keine SMS mehr von uns. Mit START bekommen Sie wieder welche.",
        ["AT"] = "{0}: Sie bekommen keine SMS mehr von uns. Mit START bekommen Sie wieder welche.",
        ["FR"] = "{0} : vous ne recevrez plus de SMS de notre part. Pour en recevoir à nouveau, écrivez START.",
        ["ES"] = "{0}: no le enviaremos más SMS. Escriba START si quiere recibirlos de nuevo.",
        ["MX"] = "{0}: no le enviaremos más SMS. Escriba START si quiere recibirlos de nuevo.",
        ["IT"] = "{0}: non riceverà più SMS da noi. Scriva START se li vuole di nuovo.",
        ["NL"] = "{0}: u krijgt geen sms meer van ons. Stuur START als u ze weer wilt.",
        ["PT"] = "{0}: não receberá mais SMS nossos. Escreva START se os quiser de novo.",
        ["BR"] = "{0}: você não receberá mais SMS nossos. Escreva START se quiser recebê-los de novo.",
        ["PL"] = "{0}: nie będziemy już wysyłać SMS-ów. Napisz START, aby znów je otrzymywać.",
        ["SE"] = "{0}: du får inga fler sms från oss. Skriv START om du vill ha dem igen.",
        ["DK"] = "{0}: du får ikke flere sms fra os. Skriv START, hvis du vil have dem igen.",
    };

    /// <summary>The text.</summary>
    /// <param name="country">Of their number (ISO 3166-1 alpha-2).</param>
    /// <param name="client">Who it is from.</param>
    public static string Confirmed(string? country, string client) =>
        (country is not null && ByCountry.TryGetValue(country, out var words) ? words : English).Replace(
            "{0}",
            client,
            StringComparison.Ordinal
        );
}
