/* Formulas: what they are worth, what they leave alone, and what is wrong with them where. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

static unsigned asked;

/* x is 7, y 0, big 65535; table the address $0010. */
static bl_status a_name(void *context, bl_text name, int64_t *value)
{
    static const struct {
        const char *name;
        int64_t value;
    } names[] = {{"x", 7}, {"y", 0}, {"big", 0xFFFF}, {"table", 0x10}, {"light._on", 3}, {"A'", 9}};
    (void)context;
    asked++;
    for (size_t i = 0; i < BL_COUNT(names); i++) {
        if (name.length != strlen(names[i].name)) continue;
        if (memcmp(name.at, names[i].name, name.length) != 0) continue;
        *value = names[i].value;
        return BL_OK;
    }
    return BL_E_NOT_FOUND;
}

/* Each byte is its address, times 3. */
static bl_status a_memory(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    (void)context;
    asked++;
    if (address >= 0x8000) return BL_E_RANGE;
    for (size_t i = 0; i < count; i++)
        bytes[i] = (uint8_t)((address + i) * 3);
    return BL_OK;
}

static bl_formula_source source = {NULL, a_name, a_memory, false};

static int64_t worth(const char *text)
{
    int64_t value = 0;
    bl_formula_fault fault;
    if (bl_formula_evaluate((bl_text){text, strlen(text)}, &source, &value, &fault) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s: %s at %u", text, fault.why, (unsigned)fault.at);
    return value;
}
#define worth(...) TEST_VALUE(worth(__VA_ARGS__))

static void faulty(const char *text, bl_status status, size_t at, const char *why)
{
    int64_t value = 1234;
    bl_formula_fault fault = {"", 99, 0};
    bl_text t = {text, strlen(text)};
    CHECK_INT(bl_formula_evaluate(t, &source, &value, &fault), status);
    CHECK_INT(value, 1234);
    CHECK_CONTAINS(fault.why, why);
    CHECK_INT(fault.at, at);
    CHECK_INT(bl_formula_evaluate(t, &source, &value, NULL), status);
}
#define faulty(...) TEST_CALL(faulty(__VA_ARGS__))

TEST(formulas_have_the_values_of_the_source_language)
{
    CHECK_INT(worth("1 + 2 * 3"), 7);
    CHECK_INT(worth("(1 + 2) * 3"), 9);
    CHECK_INT(worth("x + 1 & $FF"), 8);
    CHECK_INT(worth("-x mod 4"), -3);
    CHECK_INT(worth("1 << 4 | %11"), 19);
    CHECK_INT(worth("x > 3 && y == 0"), 1);
    CHECK_INT(worth("!x || ~0 == -1"), 1);
    CHECK_INT(worth("x ? 1 : 2"), 1);
    CHECK_INT(worth("y ? 1 : y ? 2 : 3"), 3);
    CHECK_INT(worth("<$1234 + 1"), 0x35);
    CHECK_INT(worth(">$1234"), 0x12);
    CHECK_INT(worth("lo(big) - hi($1234) + bank($56789A)"), 255 - 0x12 + 0x56);
    CHECK_INT(worth("'A'"), 65);
    CHECK_INT(worth("light._on+A'"), 12);
    CHECK_INT(worth(" 5 "), 5);
}

TEST(formulas_look_into_memory_in_the_machines_order)
{
    CHECK_INT(worth("byte(table)"), 0x30);
    CHECK_INT(worth("word(table)"), 0x3330);
    CHECK_INT(worth("triple(table + 1)"), 0x393633);
    CHECK_INT(worth("byte(byte(1) + x)"), 30);
    source.big = true;
    CHECK_INT(worth("word(table)"), 0x3033);
    CHECK_INT(worth("triple(table)"), 0x303336);
    source.big = false;
}

TEST(formulas_ask_only_for_what_they_need)
{
    asked = 0;
    CHECK_INT(worth("0 && nobody"), 0);
    CHECK_INT(worth("1 || byte($FFFF)"), 1);
    CHECK_INT(worth("1 ? 2 : nobody / 0"), 2);
    CHECK_INT(worth("0 ? byte(-1) : 3"), 3);
    CHECK_INT(asked, 0);
    faulty("1 && nobody", BL_E_NOT_FOUND, 5, "'nobody' has no value");
}

TEST(faulty_formulas_tell_where)
{
    faulty("", BL_E_SYNTAX, 0, "missing at the end");
    faulty("1 +", BL_E_SYNTAX, 3, "missing at the end");
    faulty("1 + )", BL_E_SYNTAX, 4, "a value is missing here");
    faulty("(1 + 2", BL_E_SYNTAX, 0, "never closed");
    faulty("1 2", BL_E_SYNTAX, 2, "an operator is missing");
    faulty("x ? 1", BL_E_SYNTAX, 2, "'?' without ':'");
    faulty("sin(3)", BL_E_SYNTAX, 0, "no function");
    faulty("5 / (x - 7)", BL_E_RANGE, 2, "division by zero");
    faulty("5 mod y", BL_E_RANGE, 2, "division by zero");
    faulty("2 + byte($9000)", BL_E_RANGE, 4, "memory at $9000");
    faulty("byte(0 - 1)", BL_E_RANGE, 0, "beyond 32 bits");
    faulty("x + $12345678123456789", BL_E_SYNTAX, 4, "more than 64 bits");
    faulty("nobody", BL_E_NOT_FOUND, 0, "'nobody' has no value");
    char deep[120], longest[300];
    memset(deep, '(', sizeof deep - 1);
    deep[sizeof deep - 1] = '\0';
    faulty(deep, BL_E_SYNTAX, 32, "nested too deeply");
    memset(longest, '1', sizeof longest - 1);
    longest[sizeof longest - 1] = '\0';
    faulty(longest, BL_E_SYNTAX, 0, "longer than 250");
    int64_t value;
    CHECK_INT(bl_formula_evaluate((bl_text){"1\0", 2}, &source, &value, NULL), BL_E_SYNTAX);
}

/* Any formula over small numbers against the assembler, which has the same operators. */
TEST(formulas_and_the_assembler_agree)
{
    static const char *const operators[] = {"+", "-", "*", "/",  "mod", "<<", ">>", "<",  ">",
                                            "&", "|", "^", "==", "!=",  "&&", "||", "<=", ">="};
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"6502", 4}, &test_sink, &sheet), BL_OK);
    for (unsigned turn = 0; turn < 400; turn++) {
        char formula[200] = "1", text[260];
        for (unsigned n = test_below(8) + 1; n > 0; n--) {
            char before[160];
            snprintf(before, sizeof before, "%.159s", formula);
            const char *prefix = (const char *[]){"", "-", "~", "!", "<", ">"}[test_below(6)];
            bool around = test_below(3) == 0;
            snprintf(formula, sizeof formula, "%s%s%s %s %s%u", around ? "(" : "", before,
                     around ? ")" : "", operators[test_below(18)], prefix, test_below(70) + 1);
        }
        snprintf(text, sizeof text, "v = %s\n", formula);
        bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
        bl_program *p = NULL;
        int64_t expected = 0, found = 0;
        bl_status there = bl_assemble_text(&o, "t", (bl_text){text, strlen(text)}, &p);
        bl_status here =
            bl_formula_evaluate((bl_text){formula, strlen(formula)}, &source, &found, NULL);
        if (there == BL_OK) {
            CHECK_INT(bl_program_value(p, (bl_text){"v", 1}, &expected), BL_OK);
            if (here != BL_OK || expected != found)
                test_fail(__FILE__, __LINE__, "%s: %lld, not %lld", formula, (long long)found,
                          (long long)expected);
        }
        bl_program_close(p);
    }
    bl_sheet_close(sheet);
}

TEST(a_list_of_formulas_is_cut_between_parentheses)
{
    bl_text list = {"word(a, b), (c), d", 18};
    bl_text one = bl_formula_next(&list);
    CHECK_BYTES(one.at, one.length, "word(a, b)", 10);
    one = bl_formula_next(&list);
    CHECK_BYTES(one.at, one.length, " (c)", 4);
    one = bl_formula_next(&list);
    CHECK_BYTES(one.at, one.length, " d", 2);
    CHECK_INT(list.length, 0);
}
