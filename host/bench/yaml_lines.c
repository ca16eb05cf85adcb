/* yaml_lines.c - lines of values, and unknown keys with the nearest known one. */
#include "yaml_lines.h"

#include <glib.h>
#include <stdio.h>
#include <string.h>

enum {
    MAX_BYTES = 1 << 20,
    MAX_TOKENS = 50000,
    MAX_DEPTH = 16,
    MAX_FAULTS = 100,
};

static bool refuse_token(yaml_file *f, const yaml_token_t *t, const char *hint, const char *why)
{
    bl_report(f->sink, BL_ERROR, f->path, t != NULL ? (uint32_t)t->start_mark.line + 1 : 0, hint,
              "%s", why);
    return false;
}

/* What a terminal, or a file name, should not have. Tabs are the only ones that YAML text needs. */
static bool has_control(const yaml_token_t *t)
{
    const uint8_t *b = t->data.scalar.value;
    for (size_t i = 0; i < t->data.scalar.length; i++)
        if ((b[i] < ' ' && b[i] != '\t' && b[i] != '\n') || b[i] == 0x7F ||
            (b[i] == 0xC2 && b[i + 1] >= 0x80 && b[i + 1] < 0xA0))
            return true;
    return false;
}

/* May the parser have this token? A file from anywhere must not make it work for minutes. */
static bool check_token(yaml_file *f, const yaml_token_t *t, unsigned *count, unsigned *depth)
{
    switch (t->type) {
    case YAML_BLOCK_SEQUENCE_START_TOKEN:
    case YAML_BLOCK_MAPPING_START_TOKEN:
    case YAML_FLOW_SEQUENCE_START_TOKEN:
    case YAML_FLOW_MAPPING_START_TOKEN: ++*depth; break;
    case YAML_BLOCK_END_TOKEN:
    case YAML_FLOW_SEQUENCE_END_TOKEN:
    case YAML_FLOW_MAPPING_END_TOKEN: *depth -= *depth > 0; break;
    case YAML_ALIAS_TOKEN:
    case YAML_ANCHOR_TOKEN:
        return refuse_token(f, t, "write it out where it is needed",
                            "anchors and aliases are not used");
    case YAML_SCALAR_TOKEN:
        if (has_control(t))
            return refuse_token(f, t, NULL, "this text has a control character in it");
        break;
    default: break;
    }
    if (*depth > MAX_DEPTH)
        return refuse_token(f, t, NULL, "lists and maps are nested more than 16 deep");
    if (++*count > MAX_TOKENS)
        return refuse_token(f, t, NULL, "the file holds more than 50,000 items");
    return true;
}

/* Looks through the file, token by token, before anything is made of it. What is malformed is left
 * to whoever reads it for good. */
static bool check_tokens(yaml_file *f)
{
    yaml_parser_t parser;
    yaml_token_t token;
    unsigned count = 0, depth = 0;
    bool good = true, more = true;
    if (f->length > MAX_BYTES) return refuse_token(f, NULL, NULL, "the file is larger than 1 MiB");
    if (!yaml_parser_initialize(&parser)) return refuse_token(f, NULL, NULL, "out of memory");
    yaml_parser_set_input_string(&parser, (const unsigned char *)f->text, f->length);
    while (good && more && yaml_parser_scan(&parser, &token)) {
        more = token.type != YAML_STREAM_END_TOKEN && token.type != YAML_NO_TOKEN;
        good = check_token(f, &token, &count, &depth);
        yaml_token_delete(&token);
    }
    yaml_parser_delete(&parser);
    return good;
}

/* libyaml is asked twice: for tokens, to refuse what libcyaml would take wrongly, and for nodes,
 * to have lines. */
bool yaml_file_open(yaml_file *f, const char *path, const char *text, size_t length,
                    const bl_sink *sink)
{
    yaml_parser_t parser;
    *f = (yaml_file){.path = path, .text = text, .length = length, .sink = sink};
    if (!check_tokens(f)) return false;
    if (!yaml_parser_initialize(&parser)) return refuse_token(f, NULL, NULL, "out of memory");
    yaml_parser_set_input_string(&parser, (const unsigned char *)text, length);
    bool good = yaml_parser_load(&parser, &f->document);
    if (!good) {
        uint32_t line = (uint32_t)parser.problem_mark.line + 1;
        bl_report(sink, BL_ERROR, path, line, NULL, "not well-formed YAML: %s",
                  parser.problem != NULL ? parser.problem : "unreadable");
    } else if (yaml_document_get_root_node(&f->document) == NULL) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "the file is empty");
        yaml_document_delete(&f->document);
        good = false;
    }
    yaml_parser_delete(&parser);
    return good;
}

void yaml_file_close(yaml_file *f)
{
    yaml_document_delete(&f->document);
}

yaml_node_t *yaml_root(yaml_file *f)
{
    return yaml_document_get_root_node(&f->document);
}

yaml_node_t *yaml_key(yaml_file *f, yaml_node_t *node, const char *key)
{
    if (node == NULL || node->type != YAML_MAPPING_NODE) return NULL;
    for (yaml_node_pair_t *p = node->data.mapping.pairs.start; p < node->data.mapping.pairs.top;
         p++) {
        yaml_node_t *k = yaml_document_get_node(&f->document, p->key);
        if (k->type == YAML_SCALAR_NODE && strcmp((const char *)k->data.scalar.value, key) == 0)
            return yaml_document_get_node(&f->document, p->value);
    }
    return NULL;
}

const char *yaml_pair(yaml_file *f, yaml_node_t *node, size_t index, yaml_node_t **key,
                      yaml_node_t **value)
{
    if (node == NULL || node->type != YAML_MAPPING_NODE) return NULL;
    yaml_node_pair_t *p = node->data.mapping.pairs.start + index;
    if (p >= node->data.mapping.pairs.top) return NULL;
    *key = yaml_document_get_node(&f->document, p->key);
    *value = yaml_document_get_node(&f->document, p->value);
    return (*key)->type == YAML_SCALAR_NODE ? (const char *)(*key)->data.scalar.value : "";
}

const char *yaml_text(const yaml_node_t *node)
{
    bool scalar = node != NULL && node->type == YAML_SCALAR_NODE;
    return scalar ? (const char *)node->data.scalar.value : NULL;
}

yaml_node_t *yaml_item(yaml_file *f, yaml_node_t *node, size_t index)
{
    if (node == NULL || node->type != YAML_SEQUENCE_NODE) return NULL;
    yaml_node_item_t *i = node->data.sequence.items.start + index;
    return i < node->data.sequence.items.top ? yaml_document_get_node(&f->document, *i) : NULL;
}

uint32_t yaml_line(const yaml_node_t *node)
{
    return node == NULL ? 0 : (uint32_t)node->start_mark.line + 1;
}

static bl_text line_of_file(const yaml_file *f, size_t index)
{
    size_t start = index < f->length ? index : f->length, end = start;
    while (start > 0 && f->text[start - 1] != '\n')
        start--;
    while (end < f->length && f->text[end] != '\n' && f->text[end] != '\r')
        end++;
    return (bl_text){f->text + start, end - start};
}

/* A node's mark is where it begins; its text tells how far it goes, for nodes of one line. */
void yaml_fault(yaml_file *f, const yaml_node_t *node, const char *hint, const char *message, ...)
{
    char text[320];
    va_list list;
    va_start(list, message);
    vsnprintf(text, sizeof text, message, list);
    va_end(list);
    f->faults++;
    if (f->faults == MAX_FAULTS + 1)
        bl_report(f->sink, BL_ERROR, f->path, 0, NULL, "more faults are not shown");
    if (f->faults > MAX_FAULTS) return;
    if (f->sink == NULL || f->sink->report == NULL) return;
    bl_diag d = {.severity = BL_ERROR, .file = f->path, .message = text, .hint = hint};
    if (node != NULL) {
        size_t start = node->start_mark.index, end = node->end_mark.index;
        d.line = yaml_line(node);
        d.column = (uint32_t)node->start_mark.column + 1;
        d.source = line_of_file(f, start);
        size_t max = d.source.length >= node->start_mark.column
                         ? d.source.length - node->start_mark.column
                         : 0;
        d.length = (uint32_t)(end - start < max ? end - start : max);
        if (node->type == YAML_MAPPING_NODE && d.length > 1) d.length = 1;
    }
    f->sink->report(f->sink->context, &d);
}

static const char *field_key(const void *list, size_t index)
{
    return ((const cyaml_schema_field_t *)list)[index].key;
}

static void unknown_key(yaml_file *f, const yaml_node_t *key, const cyaml_schema_field_t *fields)
{
    const char *name = (const char *)key->data.scalar.value;
    bl_text written = {name, strlen(name)};
    char hint[300];
    const char *near =
        bl_name_nearest(written, bl_name_tolerance(written.length), field_key, fields, NULL);
    size_t n = (size_t)snprintf(hint, sizeof hint, "known here:");
    for (const cyaml_schema_field_t *s = fields; s->key != NULL && n < sizeof hint; s++)
        n += (size_t)snprintf(hint + n, sizeof hint - n, " %s", s->key);
    if (near != NULL) snprintf(hint, sizeof hint, "did you mean '%s'?", near);
    yaml_fault(f, key, hint, "unknown key '%s'", name);
}

static void check_node(yaml_file *f, yaml_node_t *node, const cyaml_schema_value_t *schema);

/* Unknown keys, keys given twice and missing ones: libcyaml would name no line, or keep silent. */
static void check_mapping(yaml_file *f, yaml_node_t *node, const cyaml_schema_field_t *fields)
{
    if (node->type != YAML_MAPPING_NODE) {
        yaml_fault(f, node, NULL, "keys and values are expected here");
        return;
    }
    GHashTable *seen = g_hash_table_new(g_str_hash, g_str_equal);
    for (yaml_node_pair_t *p = node->data.mapping.pairs.start; p < node->data.mapping.pairs.top;
         p++) {
        yaml_node_t *key = yaml_document_get_node(&f->document, p->key);
        const cyaml_schema_field_t *s = fields;
        if (key->type != YAML_SCALAR_NODE) {
            yaml_fault(f, key, NULL, "a key is a word");
            continue;
        }
        const char *name = (const char *)key->data.scalar.value;
        while (s->key != NULL && strcmp(s->key, name) != 0)
            s++;
        if (!g_hash_table_add(seen, (gpointer)(uintptr_t)name))
            yaml_fault(f, key, NULL, "'%s' is given twice", name);
        if (s->key == NULL)
            unknown_key(f, key, fields);
        else
            check_node(f, yaml_document_get_node(&f->document, p->value), &s->value);
    }
    g_hash_table_destroy(seen);
    for (const cyaml_schema_field_t *s = fields; s->key != NULL; s++)
        if ((s->value.flags & CYAML_FLAG_OPTIONAL) == 0 && yaml_key(f, node, s->key) == NULL)
            yaml_fault(f, node, NULL, "'%s' is missing here", s->key);
}

static void check_node(yaml_file *f, yaml_node_t *node, const cyaml_schema_value_t *schema)
{
    switch (schema->type) {
    case CYAML_MAPPING: check_mapping(f, node, schema->mapping.fields); break;
    case CYAML_SEQUENCE:
        if (node->type != YAML_SEQUENCE_NODE) {
            yaml_fault(f, node, "each item begins with '- '", "a list is expected here");
            break;
        }
        for (size_t i = 0; yaml_item(f, node, i) != NULL; i++)
            check_node(f, yaml_item(f, node, i), schema->sequence.entry);
        break;
    case CYAML_IGNORE: break; /* its keys are the user's */
    default:
        if (node->type != YAML_SCALAR_NODE)
            yaml_fault(f, node, NULL, "a single value is expected here");
        break;
    }
}

bool yaml_file_check(yaml_file *f, const cyaml_schema_value_t *schema)
{
    check_node(f, yaml_root(f), schema);
    return f->faults == 0;
}
