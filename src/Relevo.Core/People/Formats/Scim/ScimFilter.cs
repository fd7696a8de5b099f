using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.Core.People.Formats.Scim;

/// <summary>
/// A SCIM filter: comparisons of attributes, value paths, and, or, not. Attribute names are compared without regard to case, and so are texts,
/// save ids, which are exact. Source: RFC 7644 section 3.4.2.2.
/// </summary>
public abstract record ScimFilter
{
    /// <summary>True when a resource, or a value of a multi-valued attribute, matches.</summary>
    public abstract bool Matches(JsonNode? resource);

    /// <summary>Reads a filter. Returns the error when it is none.</summary>
    public static ScimError? TryParse(string text, out ScimFilter? filter)
    {
        var parser = new ScimFilterParser(text);
        filter = parser.ParseWhole();
        return filter is null ? ScimError.InvalidFilter(parser.Trouble) : null;
    }
}

/// <summary>Both of these.</summary>
public sealed record ScimAnd(ScimFilter Left, ScimFilter Right) : ScimFilter
{
    /// <inheritdoc />
    public override bool Matches(JsonNode? resource) => Left.Matches(resource) && Right.Matches(resource);
}

/// <summary>Either of these.</summary>
public sealed record ScimOr(ScimFilter Left, ScimFilter Right) : ScimFilter
{
    /// <inheritdoc />
    public override bool Matches(JsonNode? resource) => Left.Matches(resource) || Right.Matches(resource);
}

/// <summary>Not this.</summary>
public sealed record ScimNot(ScimFilter Filter) : ScimFilter
{
    /// <inheritdoc />
    public override bool Matches(JsonNode? resource) => !Filter.Matches(resource);
}

/// <summary>One value of a multi-valued attribute meets all of an inner filter.</summary>
public sealed record ScimValuePath(ScimAttribute Attribute, ScimFilter Inner) : ScimFilter
{
    /// <inheritdoc />
    public override bool Matches(JsonNode? resource) => Attribute.Values(resource).Any(Inner.Matches);
}

/// <summary>How an attribute is compared.</summary>
public enum ScimOperator
{
    /// <summary>Equal.</summary>
    Eq,

    /// <summary>Not equal.</summary>
    Ne,

    /// <summary>Contains.</summary>
    Co,

    /// <summary>Starts with.</summary>
    Sw,

    /// <summary>Ends with.</summary>
    Ew,

    /// <summary>Present.</summary>
    Pr,

    /// <summary>Greater than.</summary>
    Gt,

    /// <summary>Greater than or equal.</summary>
    Ge,

    /// <summary>Less than.</summary>
    Lt,

    /// <summary>Less than or equal.</summary>
    Le,
}

/// <summary>A comparison with a JSON value: text, number, true, false or null.</summary>
public sealed record ScimComparison(ScimAttribute Attribute, ScimOperator Operator, JsonNode? Value) : ScimFilter
{
    /// <inheritdoc />
    public override bool Matches(JsonNode? resource)
    {
        var values = Attribute.Values(resource).Select(Simple).ToArray();
        return Operator switch
        {
            ScimOperator.Pr => values.Any(IsPresent),
            // Nothing equals null, and what is not there differs from everything but null.
            ScimOperator.Eq when Value is null => !values.Any(IsPresent),
            ScimOperator.Ne when Value is null => values.Any(IsPresent),
            ScimOperator.Ne => !values.Any(value => Compare(value) == 0),
            _ => values.Any(Holds),
        };
    }

    /// <summary>A complex value stands for its "value".</summary>
    private static JsonNode? Simple(JsonNode? value) => value is JsonObject complex && ScimAttribute.Find(complex, "value") is { } inner ? complex[inner] : value;

    private static bool IsPresent(JsonNode? value) => value switch
    {
        null => false,
        JsonArray array => array.Count > 0,
        JsonObject complex => complex.Count > 0,
        _ => value.GetValueKind() != JsonValueKind.String || value.GetValue<string>().Length > 0,
    };

    private bool Holds(JsonNode? value)
    {
        if (Operator is ScimOperator.Co or ScimOperator.Sw or ScimOperator.Ew)
        {
            if (Text(value) is not { } text || Text(Value) is not { } wanted) return false;
            var comparison = Attribute.IsExact ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase;
            return Operator switch { ScimOperator.Co => text.Contains(wanted, comparison), ScimOperator.Sw => text.StartsWith(wanted, comparison), _ => text.EndsWith(wanted, comparison) };
        }

        return Compare(value) is { } order && Operator switch
        {
            ScimOperator.Eq => order == 0,
            ScimOperator.Gt => order > 0,
            ScimOperator.Ge => order >= 0,
            ScimOperator.Lt => order < 0,
            _ => order <= 0,
        };
    }

    /// <summary>The order of two values of one kind; null when they cannot be compared. Times are compared as times.</summary>
    private int? Compare(JsonNode? value)
    {
        if (value is null || Value is null || value is JsonObject or JsonArray) return null;
        if (Text(value) is { } text && Text(Value) is { } wanted)
        {
            if (DateTimeOffset.TryParseExact(text, Moments, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var left) && DateTimeOffset.TryParseExact(wanted, Moments, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var right))
                return left.CompareTo(right);
            return Math.Sign(string.Compare(text, wanted, Attribute.IsExact ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase));
        }

        if (value.GetValueKind() == JsonValueKind.Number && Value.GetValueKind() == JsonValueKind.Number) return value.GetValue<double>().CompareTo(Value.GetValue<double>());
        if (value.GetValueKind() is JsonValueKind.True or JsonValueKind.False && Value.GetValueKind() is JsonValueKind.True or JsonValueKind.False) return value.GetValueKind() == Value.GetValueKind() ? 0 : 1;
        return null;
    }

    private static readonly string[] Moments = ["yyyy-MM-ddTHH:mm:ssK", "yyyy-MM-ddTHH:mm:ss.FFFFFFFK"];

    private static string? Text(JsonNode? value) => value?.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : null;
}

/// <summary>
/// An attribute of a resource: an optional schema, a name, an optional sub-attribute. Attributes of an extension stand in an object of the
/// extension's name. Source: RFC 7644 section 3.10.
/// </summary>
public sealed record ScimAttribute(string Schema, string Name, string Sub)
{
    /// <summary>The enterprise extension, the one this provider knows. Source: RFC 7643 section 4.3.</summary>
    public const string Enterprise = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User";

    /// <summary>Ids are compared exactly. Source: RFC 7643 section 3.1 and section 7.</summary>
    public bool IsExact => Name.Equals("id", StringComparison.OrdinalIgnoreCase) || Name.Equals("externalId", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads an attribute's path; null when it is none. "urn:...:User:department" names an attribute of an extension, "urn:...:core:2.0:User:userName" one of the resource itself.</summary>
    public static ScimAttribute? TryParse(string text)
    {
        var schema = "";
        if (text.StartsWith("urn:", StringComparison.OrdinalIgnoreCase))
        {
            if (text.Equals(Enterprise, StringComparison.OrdinalIgnoreCase)) return new ScimAttribute("", Enterprise, "");
            var colon = text.LastIndexOf(':');
            (schema, text) = (text[..colon], text[(colon + 1)..]);
            if (schema.Contains(":core:2.0:", StringComparison.OrdinalIgnoreCase)) schema = "";
        }

        var parts = text.Split('.');
        return parts.Length is 1 or 2 && parts.All(IsName) ? new ScimAttribute(schema, parts[0], parts.Length == 2 ? parts[1] : "") : null;
    }

    /// <summary>The values in a resource: each of a multi-valued attribute, or the one there is. Null members count as not there.</summary>
    public IEnumerable<JsonNode?> Values(JsonNode? resource)
    {
        var holder = Schema.Length == 0 ? resource as JsonObject : resource is JsonObject whole && Find(whole, Schema) is { } extension ? whole[extension] as JsonObject : null;
        if (holder is null || Find(holder, Name) is not { } member || holder[member] is not { } value) return [];
        return Each(value).SelectMany(item => Sub.Length == 0 ? [item] : item is JsonObject complex && Find(complex, Sub) is { } inner && complex[inner] is { } found ? Each(found) : []);
    }

    /// <summary>An object's member by its name without regard to case, as it is written there; null when there is none.</summary>
    public static string? Find(JsonObject complex, string name)
    {
        if (complex.ContainsKey(name)) return name;
        foreach (var member in complex)
        {
            if (string.Equals(member.Key, name, StringComparison.OrdinalIgnoreCase)) return member.Key;
        }

        return null;
    }

    private static IEnumerable<JsonNode?> Each(JsonNode value) => value is JsonArray array ? array : new JsonNode?[] { value };

    private static bool IsName(string name) => name.Length > 0 && (char.IsAsciiLetter(name[0]) || name[0] == '$') && name.All(character => char.IsAsciiLetterOrDigit(character) || character is '-' or '_' or '$');
}

/// <summary>Reads filters. Source: the grammar of RFC 7644 figure 1; "and" binds closer than "or", "not" closest.</summary>
internal sealed class ScimFilterParser(string text)
{
    private const int MaxDepth = 50; // nested brackets; deeper is an attack on the stack
    private int at;
    private int depth;

    public string Trouble { get; private set; } = "";

    public ScimFilter? ParseWhole()
    {
        var filter = ReadOr();
        SkipSpace();
        if (filter is not null && at < text.Length) return Fail("Something stands after the filter's end");
        return filter;
    }

    /// <summary>Reads the filter inside square brackets, from after the opening one to after the closing one.</summary>
    public ScimFilter? ParseInner(int from, out int end)
    {
        at = from;
        var filter = ReadOr();
        SkipSpace();
        end = at + 1;
        return filter is not null && at < text.Length && text[at] == ']' ? filter : Fail("A closing square bracket is missing");
    }

    private ScimFilter? ReadOr()
    {
        var left = ReadAnd();
        while (left is not null && TakeWord("or"))
        {
            if (ReadAnd() is not { } right) return null;
            left = new ScimOr(left, right);
        }

        return left;
    }

    private ScimFilter? ReadAnd()
    {
        var left = ReadTerm();
        while (left is not null && TakeWord("and"))
        {
            if (ReadTerm() is not { } right) return null;
            left = new ScimAnd(left, right);
        }

        return left;
    }

    private ScimFilter? ReadTerm()
    {
        SkipSpace();
        if (TakeWord("not"))
        {
            SkipSpace();
            return ReadGroup() is { } inner ? new ScimNot(inner) : null;
        }

        return at < text.Length && text[at] == '(' ? ReadGroup() : ReadComparison();
    }

    private ScimFilter? ReadGroup()
    {
        if (at >= text.Length || text[at] != '(') return Fail("An opening bracket is missing");
        if (++depth > MaxDepth) return Fail("The filter is nested too deeply");
        at++;
        var inner = ReadOr();
        SkipSpace();
        if (inner is null) return null;
        if (at >= text.Length || text[at] != ')') return Fail("A closing bracket is missing");
        at++;
        depth--;
        return inner;
    }

    private ScimFilter? ReadComparison()
    {
        var start = at;
        while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is ':' or '.' or '-' or '_' or '$')) at++;
        if (ScimAttribute.TryParse(text[start..at]) is not { } attribute) return Fail("An attribute is missing");
        if (at < text.Length && text[at] == '[')
        {
            at++;
            var inner = ReadOr();
            SkipSpace();
            if (inner is null) return null;
            if (at >= text.Length || text[at] != ']') return Fail("A closing square bracket is missing");
            at++;
            return new ScimValuePath(attribute, inner);
        }

        SkipSpace();
        var word = ReadWord();
        if (!Enum.TryParse<ScimOperator>(word, ignoreCase: true, out var operation) || !Enum.IsDefined(operation) || word.Any(char.IsAsciiDigit)) return Fail("An operator is missing");
        if (operation == ScimOperator.Pr) return new ScimComparison(attribute, operation, null);
        SkipSpace();
        if (!TryReadValue(out var value)) return null;
        if (value?.GetValueKind() is JsonValueKind.True or JsonValueKind.False && operation is not (ScimOperator.Eq or ScimOperator.Ne)) return Fail("True and false are equal or not, and nothing else");
        return new ScimComparison(attribute, operation, value);
    }

    private bool TryReadValue(out JsonNode? value)
    {
        value = null;
        var start = at;
        if (at < text.Length && text[at] == '"')
        {
            for (at++; at < text.Length && text[at] != '"'; at++)
            {
                if (text[at] == '\\') at++;
            }

            at = Math.Min(at + 1, text.Length);
        }
        else
        {
            while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is '-' or '+' or '.')) at++;
        }

        try
        {
            value = JsonNode.Parse(text[start..at]);
            return true;
        }
        catch (JsonException)
        {
            at = start;
            Fail("A value is missing: a text in quotation marks, a number, true, false or null");
            return false;
        }
    }

    private string ReadWord()
    {
        var start = at;
        while (at < text.Length && char.IsAsciiLetter(text[at])) at++;
        return text[start..at];
    }

    private bool TakeWord(string word)
    {
        var from = at;
        SkipSpace();
        if (string.Equals(ReadWord(), word, StringComparison.OrdinalIgnoreCase) && (at >= text.Length || text[at] is ' ' or '(')) return true;
        at = from;
        return false;
    }

    private void SkipSpace()
    {
        while (at < text.Length && text[at] == ' ') at++;
    }

    private ScimFilter? Fail(string sentence)
    {
        if (Trouble.Length == 0) Trouble = $"{sentence} (character {at + 1}).";
        return null;
    }
}
