namespace GateChain.Core.Expressions;

/// <summary>“a string”, “an int”.</summary>
static class Article
{
    public static string Of(object type)
    {
        var name = type.ToString()!;
        return (name[0] is 'a' or 'i' or 'o' ? "an " : name == "null" ? "" : "a ") + name;
    }
}
