-- A date keeps its name when it is moved, split off or becomes an event of its own: which dates have other names than their
-- starts say.
alter table event add column names jsonb not null default '[]';

-- Words are found by their letters without accents.
update event set words = translate(words, 'àáâãäåçèéêëìíîïñòóôõöøùúûüýÿāăąćĉċčďđēĕėęěĝğġģĥħĩīĭįıĵķĺļľłńņňōŏőŕŗřśŝşšţťŧũūŭůűųŵŷźżžơưǎǐǒǔǖǘǚǜǟǡǧǩǫǭǰǵǹǻǿȁȃȅȇȉȋȍȏȑȓȕȗșțȟȧȩȫȭȯȱȳ', 'aaaaaaceeeeiiiinoooooouuuuyyaaaccccddeeeeegggghhiiiiijkllllnnnooorrrsssstttuuuuuuwyzzzouaiouuuuuaagkoojgnaoaaeeiioorruusthaeooooy') where words ~ '[^\x01-\x7f]';
