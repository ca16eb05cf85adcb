/* The C programs that show the library, run. */
#include "cli_support.h"

TEST(c_examples_do_what_they_say)
{
    test_run r = expect_code(0, "$(dirname $(which bootlace))/examples/c/example-assemble");
    CHECK_CONTAINS(r.out, "$0300: A9 2A 8D 11 80 CE 0B 03 D0 F6 60 03");
    CHECK_CONTAINS(r.out, "count    $030B");
    CHECK_CONTAINS(expect_code(0, "$(dirname $(which bootlace))/examples/c/example-provider").out,
                   "byte at $0300: 3");
    r = expect_code(0, "$(dirname $(which bootlace))/examples/c/example-messages");
    CHECK_CONTAINS(r.out,
                   "line 1, column 9: the 65c02 has no instruction 'ldaa' - did you mean LDA?");
    CHECK_CONTAINS(r.out, "2 errors, 1 warnings");
    r = expect_code(0, "$(dirname $(which bootlace))/examples/c/example-image_objects");
    CHECK_CONTAINS(r.out, "$C002 is taken");
    CHECK_CONTAINS(r.out, "5 bytes came back");
    r = expect_code(0, "$(dirname $(which bootlace))/examples/c/example-own_disk");
    CHECK_CONTAINS(r.out, "first: good, second: the drive is not ready");
    CHECK_CONTAINS(r.out, "allocation table 1: 1 sector is not as in the other copy");
    CHECK_CONTAINS(r.out, ": mended\nLOG.TXT, 5 bytes\n");
    r = expect_code(0, "$(dirname $(which bootlace))/examples/c/example-own_programmer");
    CHECK_CONTAINS(r.out, "128 pages written into a 28C64, 8192 bytes proved: all right");
}
