import { useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { useState } from "react";
import { api, got, ProblemError } from "./api/client";
import { Brand } from "./ui/Brand";
import { ProblemNote } from "./ui/ProblemNote";

export function SignIn() {
  const client = useQueryClient();
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const submit = async (body: { username: string; password: string }) => {
    try {
      await got(api.POST("/api/session", { body }));
      await client.invalidateQueries({ queryKey: ["who"] });
    } catch (e) {
      if (e instanceof ProblemError) setProblem(e);
      else throw e;
    }
  };
  return (
    <main className="alone">
      <Brand />
      <p className="quiet">From a scan and a few readings to a solid you can machine.</p>
      <Form layout="vertical" onFinish={submit} className="sign-in">
        <Form.Item name="username" label="Name" rules={[{ required: true }]}>
          <Input autoFocus autoComplete="username" />
        </Form.Item>
        <Form.Item name="password" label="Password" rules={[{ required: true }]}>
          <Input.Password autoComplete="current-password" />
        </Form.Item>
        {problem && <ProblemNote problem={problem.problem} />}
        <Button type="primary" htmlType="submit" block className="gap">
          Sign in
        </Button>
      </Form>
      <p className="quiet small">The demo needs no password: use the address that ./run demo prints.</p>
    </main>
  );
}
