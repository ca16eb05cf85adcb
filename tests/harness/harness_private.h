/* harness_private.h - between the harness's own files. */
#ifndef BOOTLACE_HARNESS_PRIVATE_H
#define BOOTLACE_HARNESS_PRIVATE_H

void test_folder_remove(void);

#endif
