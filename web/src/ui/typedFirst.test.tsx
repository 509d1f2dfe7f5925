import { render, screen, waitFor } from "@testing-library/react";
import { ConfigProvider, Input, type InputRef, Modal } from "antd";
import { expect, it } from "vitest";
import { useTypedFirst } from "./typedFirst";

function Asked() {
  const { first, afterOpenChange } = useTypedFirst<InputRef>();
  return (
    <Modal open footer={null} afterOpenChange={afterOpenChange}>
      <Input aria-label="before" />
      <Input aria-label="name" ref={first} autoFocus />
    </Modal>
  );
}

it.each([true, false])(
  "the field of a dialog that opens can be typed in at once, whether it moves (%s)",
  async (motion) => {
    render(
      <ConfigProvider theme={{ token: { motion } }}>
        <Asked />
      </ConfigProvider>,
    );
    await waitFor(() => expect(document.activeElement).toBe(screen.getByLabelText("name")));
  },
);
