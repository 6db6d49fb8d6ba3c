using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;

namespace Valtro.Server.Api;

/// <summary>
/// Holds bodies to what the types say: what may not be null is there, and no list has a null in it. Said once for every
/// operation, so that no endpoint meets what its types rule out.
/// </summary>
internal static class StrictBodies
{
    public static void Modify(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object || type.Type.Assembly != typeof(StrictBodies).Assembly)
            return;
        var nullability = new NullabilityInfoContext();
        var checks = new List<(string Name, Func<object, object?> Get, bool MayBeNull)>();
        foreach (var property in type.Properties)
        {
            if (property.Get is not { } get || property.PropertyType.IsValueType || property.AssociatedParameter?.AttributeProvider is not ParameterInfo parameter)
                continue;
            checks.Add((property.Name, get, nullability.Create(parameter).WriteState != NullabilityState.NotNull));
        }
        if (checks.Count == 0)
            return;
        type.OnDeserialized = made =>
        {
            foreach (var (name, get, mayBeNull) in checks)
            {
                var value = get(made);
                if (value is null && !mayBeNull)
                    throw new MissingPartException(name, $"“{name}” is missing.");
                if (value is IList list && list.Contains(null))
                    throw new MissingPartException(name, $"An entry of “{name}” is null.");
            }
        };
    }
}

/// <summary>A body without what its operation cannot do without.</summary>
/// <param name="part">The name of what is missing.</param>
/// <param name="message">What is missing.</param>
internal sealed class MissingPartException(string part, string message) : JsonException(message)
{
    public string Part { get; } = part;
}
