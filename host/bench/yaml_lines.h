/* yaml_lines.h - what libcyaml does not tell: which line a value stands on, and which keys are
 * unknown. */
#ifndef BOOTLACE_HOST_YAML_LINES_H
#define BOOTLACE_HOST_YAML_LINES_H

#include "bootlace/diag.h"

#include <cyaml/cyaml.h>
#include <yaml.h>

typedef struct yaml_file {
    const char *path;
    const char *text;
    size_t length;
    yaml_document_t document;
    const bl_sink *sink;
    unsigned faults;
} yaml_file;

/* Parses text. False (reported) when it is not YAML. Close with yaml_file_close. */
bool yaml_file_open(yaml_file *f, const char *path, const char *text, size_t length,
                    const bl_sink *sink);
void yaml_file_close(yaml_file *f);

/* Reports every key that the schema does not know, every missing one, and every value of the wrong
 * shape. False when there was any. */
bool yaml_file_check(yaml_file *f, const cyaml_schema_value_t *schema);

/* The node behind a key, or an index of a sequence; NULL passes through. */
yaml_node_t *yaml_key(yaml_file *f, yaml_node_t *node, const char *key);
yaml_node_t *yaml_item(yaml_file *f, yaml_node_t *node, size_t index);
/* The key of a mapping's pair, by its place; NULL beyond the last. */
const char *yaml_pair(yaml_file *f, yaml_node_t *node, size_t index, yaml_node_t **key,
                      yaml_node_t **value);
/* The text of a single value; NULL for anything else. */
const char *yaml_text(const yaml_node_t *node);
yaml_node_t *yaml_root(yaml_file *f);
uint32_t yaml_line(const yaml_node_t *node);

/* Reports a fault at a node, its text marked. */
void yaml_fault(yaml_file *f, const yaml_node_t *node, const char *hint, const char *message, ...)
    __attribute__((format(printf, 4, 5)));

#endif
