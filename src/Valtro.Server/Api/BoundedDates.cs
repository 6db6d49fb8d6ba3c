using System.Text.Json;
using System.Text.Json.Serialization;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;

namespace Valtro.Server.Api;

/// <summary>
/// Dates as they come in: of years that a school's calendar has. Said once for all bodies, so that nothing computes at the edge of the
/// time there is. What goes out is written as it is.
/// </summary>
internal static class BoundedDates
{
    private const int First = 1000;
    private const int Last = 2999;

    public static void AddTo(JsonSerializerOptions json)
    {
        json.Converters.Insert(0, new Converter<LocalDate>(NodaConverters.LocalDateConverter, d => d.Year));
        json.Converters.Insert(0, new Converter<LocalDateTime>(NodaConverters.LocalDateTimeConverter, d => d.Year));
        json.Converters.Insert(0, new Converter<Instant>(NodaConverters.InstantConverter, i => i.InUtc().Year));
    }

    private sealed class Converter<T>(JsonConverter<T> inner, Func<T, int> year) : JsonConverter<T>
    {
        public override T? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
        {
            var value = inner.Read(ref reader, typeToConvert, options);
            return year(value!) is >= First and <= Last
                ? value
                : throw new InvalidInputException("date_out_of_range", null, $"A date in this is of no year a calendar has: {First} to {Last}.");
        }

        public override void Write(Utf8JsonWriter writer, T value, JsonSerializerOptions options) => inner.Write(writer, value, options);
    }
}
