using Valtro.Core.Views;

namespace Valtro.Core.Tests.Views;

public class WordsTests
{
    [Theory]
    [InlineData("Évening  of Knots", "evening of knots")]
    [InlineData("Épissures à l’ÉCOLE, dès 9 h", "epissures a l’ecole, des 9 h")]
    [InlineData("Łódź Ørsted Şile Ángström", "lodz orsted sile angstrom")]
    [InlineData("E\u0301te\u0301\tà Nice", "ete a nice")]
    [InlineData("Straße Œuvre 你好 × 3", "straße œuvre 你好 × 3")]
    public void Words_are_folded_to_plain_letters(string text, string folded) => Assert.Equal(folded, Words.Fold(text));
}
