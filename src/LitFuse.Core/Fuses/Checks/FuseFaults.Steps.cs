using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Words;

namespace LitFuse.Core.Fuses.Checks;

/// <summary>Faults of steps, and of how they wait for one another.</summary>
public static partial class FuseFaults
{
    private const int MostChoices = 9;

    private static void OfStep(
        Band band,
        Step step,
        FuseDefinition fuse,
        FuseSurroundings around,
        List<FuseFault> faults
    )
    {
        void Add(FuseFaultCode code, string what, string mend, string about = "") =>
            faults.Add(new(band.Id, step.Id, code, what, mend) { About = about });
        if (string.IsNullOrWhiteSpace(step.Name))
            Add(FuseFaultCode.StepWithoutName, "The step has no name.", "Say in a few words what it does.");
        if (step.Moment.Fault() is { } moment)
            Add(
                FuseFaultCode.StepTime,
                $"The time of '{step.Name}' {moment}.",
                "Set a time between 0 seconds and 400 days."
            );
        if (step.Hours?.Fault() is { } hours)
            Add(FuseFaultCode.StepHours, $"'{step.Name}' {hours}.", "Write them as 09:00 to 18:00.");
        if (around.Steps.Find(step.Kind) is not { } kind)
        {
            Add(
                FuseFaultCode.StepKind,
                $"There is no step of kind '{step.Kind}'.",
                "Choose one of " + string.Join(", ", around.Steps.All.Select(k => k.Label)) + ".",
                step.Kind
            );
            return;
        }

        if (kind.Service is { } service)
            OfConnection(step, service, around, Add);
        if (step.When is { } when)
            OfRules(when, $"'{step.Name}'", around, fuse, Add);
        foreach (var setting in kind.Settings)
            OfSetting(step, setting, fuse, around, Add);
        OfChoices(step, kind, fuse, around, Add);
        if (
            step.OnFailure is { Next: FailureThen.Instead } failure
            && (failure.Step == step.Id || band.Steps.All(s => s.Id != failure.Step))
        )
            Add(
                FuseFaultCode.InsteadGone,
                $"What takes the place of '{step.Name}' is no other step of its band.",
                "Choose a step of the same band."
            );
        if (step.OnFailure is { Next: FailureThen.Tell } tell)
            OfColleague(step, tell.Person, around, Add);
    }

    private static void OfConnection(Step step, string service, FuseSurroundings around, AddFault add)
    {
        if (!around.Services.Contains(service))
        {
            add(
                FuseFaultCode.NoConnection,
                $"'{step.Name}' has no connection to send through.",
                $"Connect {service} for this client.",
                service
            );
            return;
        }

        var through = around.Connections.Where(c => c.Kind == service).ToList();
        var chosen = step.Settings.GetValueOrDefault(StepKinds.Connection);
        if (string.IsNullOrEmpty(chosen) && through.Count > 1)
            add(
                FuseFaultCode.ConnectionOpen,
                $"'{step.Name}' does not say through which of {through.Count} connections it goes.",
                "Choose one: " + string.Join(", ", through.Select(c => c.Name)) + "."
            );
        var one = string.IsNullOrEmpty(chosen)
            ? (through.Count == 1 ? through[0] : null)
            : through.Find(c => c.Id == chosen);
        if (!string.IsNullOrEmpty(chosen) && through.Count > 0 && one is null)
            add(
                FuseFaultCode.ConnectionGone,
                $"The connection that '{step.Name}' goes through is not there any more.",
                "Choose another.",
                chosen
            );
        if (one?.Fault is { } fault)
            add(
                FuseFaultCode.ConnectionFails,
                $"'{step.Name}' goes through {one.Name}, where nothing gets through: {fault}",
                "Mend the connection under Setup.",
                one.Id
            );
    }

    // What a service demands is known before the first lead, not when it refuses one.
    private static void OfColumns(
        Step step,
        StepSetting setting,
        FuseDefinition fuse,
        FuseSurroundings around,
        AddFault add
    )
    {
        var filled = step.Columns(setting.Key).ToList();
        foreach (var (_, text) in filled)
            OfWords(step, text, fuse, around, add);
        if (!around.Lists.TryGetValue($"{step.Id}.{setting.Key}", out var columns))
            return;
        var keys = filled.ConvertAll(f => f.Key[(setting.Key.Length + 1)..]);
        foreach (var missing in columns.Where(c => c.Required && !keys.Contains(c.Key)))
            add(
                FuseFaultCode.ColumnDemanded,
                $"'{step.Name}' puts nothing into “{missing.Name}”, which is demanded there.",
                "Choose a field for it.",
                missing.Key
            );
        foreach (var gone in keys.Where(k => columns.All(c => c.Key != k)))
            add(
                FuseFaultCode.ColumnGone,
                $"'{step.Name}' fills “{gone}”, which is not there any more.",
                "Take it out, or add it there and refresh.",
                gone
            );
        if (filled.Count == 0 && !setting.Optional)
            add(FuseFaultCode.NoColumn, $"'{step.Name}' fills nothing.", "Choose at least one field.");
    }

    private static void OfSetting(
        Step step,
        StepSetting setting,
        FuseDefinition fuse,
        FuseSurroundings around,
        AddFault add
    )
    {
        if (!setting.CountsFor(step.Settings))
            return;
        if (setting.Type == SettingType.Columns)
            OfColumns(step, setting, fuse, around, add);
        else if (setting.Type == SettingType.Pairs)
            OfPairs(step, setting, fuse, around, add);
        else if (step.Settings.GetValueOrDefault(setting.Key) is { } value && !string.IsNullOrWhiteSpace(value))
            OfValue(step, setting, value, fuse, around, add);
        else if (setting.Optional)
            return;
        else if (setting.Type is SettingType.Words or SettingType.Line)
            OfWords(step, step.Settings.GetValueOrDefault(setting.Key) ?? "", fuse, around, add);
        else
            add(
                FuseFaultCode.SettingMissing,
                $"'{step.Name}' has no {setting.Label.ToLowerInvariant()}.",
                "Choose one.",
                setting.Key
            );
    }

    private static void OfPairs(
        Step step,
        StepSetting setting,
        FuseDefinition fuse,
        FuseSurroundings around,
        AddFault add
    )
    {
        foreach (var (_, text) in step.Columns(setting.Key))
            OfWords(step, text, fuse, around, add);
        if (!setting.Optional && !step.Columns(setting.Key).Any())
            add(
                FuseFaultCode.SettingMissing,
                $"'{step.Name}' has no {setting.Label.ToLowerInvariant()}.",
                "Name at least one, and say what stands in it.",
                setting.Key
            );
    }

    // What is chosen or written, and not empty.
    private static void OfValue(
        Step step,
        StepSetting setting,
        string value,
        FuseDefinition fuse,
        FuseSurroundings around,
        AddFault add
    )
    {
        switch (setting.Type)
        {
            case SettingType.Words or SettingType.Line:
                OfWords(step, value, fuse, around, add);
                OfCopies(step, setting, value, add);
                OfLine(step, setting, value, add);
                break;
            case SettingType.Json:
                OfJson(step, setting, value, fuse, around, add);
                break;
            case SettingType.Colleague when value == StepKinds.Nobody && setting.Choices.Any(c => c.Value == value):
                if (string.IsNullOrWhiteSpace(step.Settings.GetValueOrDefault(StepKinds.Copies)))
                    add(
                        FuseFaultCode.ToNobody,
                        $"'{step.Name}' goes to nobody.",
                        "Write at least one address to copy it to, or choose who it is for."
                    );
                break;
            case SettingType.Colleague when setting.Choices.Any(c => c.Value == value):
            case SettingType.Person when value == "owner":
                break;
            case SettingType.Colleague:
                OfColleague(step, value, around, add);
                break;
            case SettingType.Colleagues:
                foreach (var one in value.Split(',').Select(v => v.Trim()).Where(v => v != "team"))
                    OfColleague(step, one, around, add);
                break;
            case SettingType.Blocks:
                OfBlocks(step, value, around, add);
                break;
            case SettingType.Files:
                if (around.Files is { } files && value.Split(',').Any(v => !files.Contains(v.Trim())))
                    add(
                        FuseFaultCode.FileGone,
                        $"A file of '{step.Name}' is not in the library any more.",
                        "Choose another."
                    );
                break;
            case SettingType.Tag when value.Length > 40 || value.Contains(',', StringComparison.Ordinal):
                add(
                    FuseFaultCode.Tag,
                    $"The tag of '{step.Name}' has more than 40 characters or a comma.",
                    "Shorten it."
                );
                break;
            case SettingType.Links:
                OfLinks(step, setting, value, add);
                break;
            default:
                OfTarget(step, setting, value, around, add);
                break;
        }
    }

    // One that is put in by a field is known only when it goes.
    private static void OfCopies(Step step, StepSetting setting, string value, AddFault add)
    {
        if (
            setting.Key == StepKinds.Copies
            && !value.Contains("{{", StringComparison.Ordinal)
            && value.Split(',', ';').FirstOrDefault(c => Identity.EmailReader.Read(c.Trim()).Email is null) is { } wrong
        )
            add(
                FuseFaultCode.CopyAddress,
                $"'{step.Name}' has a copy to “{wrong.Trim()}”, which is no email address.",
                "Write addresses, with commas between them."
            );
    }

    private static void OfBlocks(Step step, string value, FuseSurroundings around, AddFault add)
    {
        if (
            value
                .Split(',')
                .Select(v => v.Trim())
                .FirstOrDefault(v =>
                    v != Core.Words.Blocks.Answers && v != "name" && around.Fields.All(f => f.Key != v)
                ) is
            { } unknown
        )
            add(
                FuseFaultCode.BlockUnfilled,
                $"'{step.Name}' shows '{unknown}', which nothing fills.",
                "Choose a field from the list.",
                unknown
            );
    }

    private static void OfLinks(Step step, StepSetting setting, string value, AddFault add)
    {
        if (value.Split(',').FirstOrDefault(l => setting.Choices.All(c => c.Value != l.Trim())) is { } other)
            add(
                FuseFaultCode.Link,
                $"'{step.Name}' has a link '{other.Trim()}', which is none that it can have.",
                $"Choose among {string.Join(", ", setting.Choices.Select(c => c.Value))}.",
                other.Trim()
            );
    }

    private static void OfTarget(Step step, StepSetting setting, string value, FuseSurroundings around, AddFault add)
    {
        var targets = setting.Type switch
        {
            SettingType.Channel => around.Channels,
            SettingType.Person => around.People,
            SettingType.Stage => around.Stages,
            SettingType.Fuse => around.Fuses,
            SettingType.Field => [.. around.Fields.Select(f => f.Key)],
            SettingType.Choice => [.. setting.Choices.Select(c => c.Value)],
            SettingType.Listed => around
                .Lists.GetValueOrDefault($"{step.Id}.{setting.Key}")
                ?.Select(i => i.Key)
                .ToList(),
            _ => null,
        };
        if (targets is not null && !targets.Contains(value))
            add(
                FuseFaultCode.TargetGone,
                $"The {setting.Label.ToLowerInvariant()} '{value}' is not there.",
                "Choose one that is.",
                $"{setting.Key}={value}"
            );
    }

    // What is put in by a field is known only when it goes; what is written out is judged now.
    private static void OfLine(Step step, StepSetting setting, string value, AddFault add)
    {
        if (value.Contains("{{", StringComparison.Ordinal))
            return;
        var address = value.Contains('<', StringComparison.Ordinal)
            ? value[(value.IndexOf('<', StringComparison.Ordinal) + 1)..].TrimEnd('>', ' ')
            : value.Trim();
        switch (setting.Key)
        {
            case "team-sees" or "lead-sees" when Identity.PhoneReader.Read(value, "").Phone is null:
                add(
                    FuseFaultCode.PhoneWritten,
                    $"The {setting.Label.ToLowerInvariant()} of '{step.Name}' is no telephone number: “{value}”.",
                    "Write it with its country code, as in +447700900512.",
                    setting.Key
                );
                break;
            case "from"
            or "reply" when step.Kind == StepKinds.Email && Identity.EmailReader.Read(address).Email is null:
                add(
                    FuseFaultCode.EmailWritten,
                    $"'{step.Name}' has “{value}” where an email address belongs ({setting.Label.ToLowerInvariant()}).",
                    "Write it as in Imke Sandoval <imke@brackenwheel.example>.",
                    setting.Key
                );
                break;
            case "picture"
                when !Uri.TryCreate(value.Trim(), UriKind.Absolute, out var at) || at.Scheme is not ("http" or "https"):
                add(
                    FuseFaultCode.Picture,
                    $"The picture of '{step.Name}' is no address: “{value}”.",
                    "Write it as in https://brackenwheel.example/bell.png."
                );
                break;
            default:
                break;
        }
    }

    private static void OfColleague(Step step, string? person, FuseSurroundings around, AddFault add)
    {
        if (person is null or "owner" || around.Colleagues is null || around.Colleagues.Contains(person))
            return;
        add(
            FuseFaultCode.ColleagueGone,
            $"'{step.Name}' is for somebody who does not work for this client any more.",
            "Choose who it is for, or whoever answers for the lead.",
            person
        );
    }

    private static void OfChoices(Step step, StepKind kind, FuseDefinition fuse, FuseSurroundings around, AddFault add)
    {
        if (step.Choices is not { Count: > 0 } choices)
            return;
        if (kind.Key != StepKinds.Text)
            add(
                FuseFaultCode.ChoicesNotText,
                $"'{step.Name}' offers choices, but only a text is answered.",
                "Take the choices out, or make it a text."
            );
        if (choices.Count > MostChoices)
            add(FuseFaultCode.TooManyChoices, $"'{step.Name}' offers more than {MostChoices} choices.", "Offer fewer.");
        foreach (var choice in choices)
            OfWords(step, choice, fuse, around, add);
        if (step.Settings.GetValueOrDefault("words")?.Contains("choices", StringComparison.Ordinal) != true)
            add(
                FuseFaultCode.ChoicesUnsaid,
                $"'{step.Name}' offers choices, but its words do not say them.",
                "Put {{ choices }} where they are to stand."
            );
    }

    private static void OfWords(Step step, string text, FuseDefinition fuse, FuseSurroundings around, AddFault add)
    {
        var (words, fault) = MessageWords.Parse(text);
        if (words is null)
        {
            add(
                FuseFaultCode.Words,
                $"The words of '{step.Name}' cannot be read: {fault}.",
                "Mend them where it says."
            );
            return;
        }

        foreach (var path in words.Uses.Where(p => !Known(p, fuse, around)))
        {
            add(
                FuseFaultCode.Unfilled,
                $"'{step.Name}' speaks of '{path}', which nothing fills.",
                "Choose a field from the list.",
                path
            );
        }
    }

    private static void OfJson(
        Step step,
        StepSetting setting,
        string text,
        FuseDefinition fuse,
        FuseSurroundings around,
        AddFault add
    )
    {
        var (words, fault) = JsonWords.Parse(text);
        if (words is null)
            add(
                FuseFaultCode.Body,
                $"The {setting.Label.ToLowerInvariant()} of '{step.Name}' cannot be read: {fault}.",
                "Mend it where it says. Fields stand inside strings, as in \"{{ lead.name }}\".",
                setting.Key
            );
        else
            foreach (var path in words.Uses.Where(p => !Known(p, fuse, around)))
                add(
                    FuseFaultCode.Unfilled,
                    $"'{step.Name}' speaks of '{path}', which nothing fills.",
                    "Choose a field from the list.",
                    path
                );
    }

    private static bool Known(string path, FuseDefinition fuse, FuseSurroundings around) =>
        path
            is "answers"
                or "choices"
                or "client.name"
                or "form.name"
                or "lead.name"
                or "lead.link"
                or "lead.stage"
                or "owner.name"
                or "owner.first_name"
                or "owner.email"
                or "owner.phone"
                or "fuse.name"
                or "fuse.link"
                or "reply.text"
                or "reply.meaning"
                or "reply.choice"
        || path.StartsWith("tracking.", StringComparison.Ordinal)
        || (path.StartsWith(Facts.Steps, StringComparison.Ordinal) && KnownResult(path, fuse, around))
        || (path.StartsWith("lead.", StringComparison.Ordinal) && around.Fields.Any(f => f.Key == path[5..]));
}
